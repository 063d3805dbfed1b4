"""Which lines of bodies are seen from a direction, and which are hidden."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.HLRAlgo import HLRAlgo_EdgeIterator, HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_Data, HLRBRep_EdgeData, HLRBRep_FaceIterator
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.convert.flat_out import seen_curve
from gondrel.core.model.drawing import DrawnLine, LineRole, ViewFrame

__all__ = ["lines_seen"]


def lines_seen(
    shapes: Sequence[TopoDS_Shape], frame: ViewFrame, *, hidden: bool = True, smooth: bool = False
) -> list[DrawnLine]:
    """The lines of B-rep bodies as seen from a direction, parallel, in the frame of the sheet, mm.

    Args:
        hidden: whether hidden lines are wanted as well.
        smooth: whether lines are drawn where faces meet smoothly.

    Raises:
        KernelRefused: when the kernel fails over it.

    Source: the kernel's exact removal of hidden lines says which stretches of which edges are seen; the
    stretches are taken from the edges' own curves, so they are exact but for their ends.
    """
    if not shapes:
        return []
    with kernel_call("removing hidden lines"):
        algorithm = HLRBRep_Algo()
        for shape in shapes:
            algorithm.Add(shape)
        view = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*frame.towards.tolist()), gp_Dir(*frame.right))
        algorithm.Projector(HLRAlgo_Projector(view))
        algorithm.Update()
        algorithm.Hide()
        return list(_drawn(algorithm, len(shapes), frame, hidden, smooth))


def _drawn(
    algorithm: HLRBRep_Algo, count: int, frame: ViewFrame, hidden: bool, smooth: bool
) -> Iterator[DrawnLine]:
    data = algorithm.DataStructure()
    right, up = np.asarray(frame.right), np.asarray(frame.up)
    edges = data.EDataArray()
    inner, contours = _roles(data)
    for part in range(count):
        _, _, first, last, _, _ = algorithm.ShapeBounds(part + 1).Bounds()
        for number in range(first, last + 1):
            edge = edges.Value(number)
            role = _role(edge, number, inner, contours)
            if edge.Vertical() or (role is LineRole.SMOOTH and not smooth):
                continue
            curve = edge.Geometry().GetCurve()
            for is_hidden, start, end in _stretches(edge, hidden):
                seen = seen_curve(curve, start, end, right, up)
                if seen is not None:
                    yield DrawnLine(seen, role, is_hidden, part)


def _role(edge: HLRBRep_EdgeData, number: int, inner: set[int], contours: set[int]) -> LineRole:
    if number in inner:
        return LineRole.CONTOUR
    if edge.Rg1Line():
        return LineRole.CONTOUR if number in contours else LineRole.SMOOTH
    return LineRole.EDGE


def _roles(data: HLRBRep_Data) -> tuple[set[int], set[int]]:
    """Edges made for the contour within a face, and edges of the body that lie on a contour."""
    inner, contours = set(), set()
    faces, iterator = data.FDataArray(), HLRBRep_FaceIterator()
    for number in range(1, data.NbFaces() + 1):
        iterator.InitEdge(faces.Value(number))
        while iterator.MoreEdge():
            if iterator.Internal():
                inner.add(iterator.Edge())
            elif iterator.OutLine():
                contours.add(iterator.Edge())
            iterator.NextEdge()
    return inner, contours


def _stretches(edge: HLRBRep_EdgeData, hidden: bool) -> Iterator[tuple[bool, float, float]]:
    status, iterator = edge.Status(), HLRAlgo_EdgeIterator()
    iterator.InitVisible(status)
    while iterator.MoreVisible():
        start, _, end, _ = iterator.Visible()
        yield False, start, end
        iterator.NextVisible()
    if not hidden:
        return
    iterator.InitHidden(status)
    while iterator.MoreHidden():
        start, _, end, _ = iterator.Hidden()
        yield True, start, end
        iterator.NextHidden()
