"""Joining loose faces along common edges into shells, and closed shells into solids."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepLib import BRepLib
from OCP.OCP.collections import HSequence_TopoDS_Shape as ShapeSequence
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeAnalysis import ShapeAnalysis_FreeBounds
from OCP.TopAbs import TopAbs_ShapeEnum, TopAbs_State
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Shape, TopoDS_Shell, TopoDS_Solid

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, shell_of, split_bodies, vertices_of
from gondrel.core.model.body import BodyKind

__all__ = ["Joined", "JoinedBody", "connect_edges", "sew_faces", "solids_of_shells"]

_INSIDE_WITHIN = 1e-6


@dataclass(frozen=True, slots=True)
class JoinedBody:
    """One body that came of joining.

    Args:
        sources: for each of its faces the place of the face it was among those joined, -1 if unknown.
    """

    kind: BodyKind
    shape: TopoDS_Shape
    sources: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Joined:
    """What came of joining.

    Args:
        tolerance: distance in mm within which edges were taken for the same; open_edges: how many
            edges have a face on one side only.
    """

    bodies: tuple[JoinedBody, ...]
    tolerance: float
    open_edges: int


def sew_faces(faces: Sequence[TopoDS_Shape], tolerance: float) -> Joined:
    """Join faces; what closes becomes a solid, a closed shell within another its cavity.

    Args:
        tolerance: mm.

    Raises:
        KernelRefused: when the kernel fails over them.
    """
    with kernel_call("joining surfaces"):
        sewing = BRepBuilderAPI_Sewing(tolerance)
        for face in faces:
            sewing.Add(face)
        sewing.Perform()
        sewn = sewing.SewedShape()
        became = [sewing.ModifiedSubShape(face) for face in faces]
        whole = [(kind, shape) for kind, shape in split_bodies(sewn)]
        sheets = [_as_shell(shape) for kind, shape in whole if kind is BodyKind.SHEET]
        rest = [(kind, s) for kind, s in whole if kind is not BodyKind.SHEET]
        made: list[tuple[BodyKind, TopoDS_Shape]] = [*solids_of_shells(sheets), *rest]
        bodies = tuple(JoinedBody(kind, shape, _sources(shape, became)) for kind, shape in made)
        return Joined(bodies, tolerance, sewing.NbFreeEdges())


def _as_shell(shape: TopoDS_Shape) -> TopoDS_Shell:
    """A shell as it is, a single face in one of its own: a sphere can be a whole skin."""
    if shape.ShapeType() == TopAbs_ShapeEnum.TopAbs_SHELL:
        return TopoDS.Shell(shape)
    return shell_of([shape])


def _sources(shape: TopoDS_Shape, became: Sequence[TopoDS_Shape]) -> tuple[int, ...]:
    order = ShapeMap()
    TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_FACE, order)
    sources = [-1] * order.Extent()
    for place, now in enumerate(became):
        inner = ShapeMap()
        TopExp.MapShapes_s(now, TopAbs_ShapeEnum.TopAbs_FACE, inner)
        for i in range(1, inner.Extent() + 1):
            index = order.FindIndex(inner.FindKey(i))
            if index:
                sources[index - 1] = place
    return tuple(sources)


def solids_of_shells(shells: Sequence[TopoDS_Shell]) -> list[tuple[BodyKind, TopoDS_Shape]]:
    """Solids of the closed shells, each with the closed shells right inside it as cavities.

    Open shells come back as sheets. Call it inside kernel_call.
    """
    closed = [s for s in shells if _is_closed(s)]
    sheets = [(BodyKind.SHEET, s) for s in shells if not _is_closed(s)]
    solids = [_filled(shell) for shell in closed]
    inside = [
        [j for j, outer in enumerate(solids) if j != i and _is_in(closed[i], outer)]
        for i in range(len(closed))
    ]
    made: list[tuple[BodyKind, TopoDS_Shape]] = []
    builder = BRep_Builder()
    for place, solid in enumerate(solids):
        if len(inside[place]) % 2:
            continue  # a cavity of another
        for other, above in enumerate(inside):
            if place in above and len(above) == len(inside[place]) + 1:
                builder.Add(solid, _shell_of(solids[other]).Reversed())
        made.append((BodyKind.SOLID, solid))
    return [*made, *sheets]


def _is_closed(shell: TopoDS_Shell) -> bool:
    return bool(BRep_Tool.IsClosed_s(shell))


def _filled(shell: TopoDS_Shell) -> TopoDS_Solid:
    """The solid a closed shell bounds, with its material inside."""
    solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def _shell_of(solid: TopoDS_Solid) -> TopoDS_Shape:
    shape_map = ShapeMap()
    TopExp.MapShapes_s(solid, TopAbs_ShapeEnum.TopAbs_SHELL, shape_map)
    return shape_map.FindKey(1)


def _is_in(shell: TopoDS_Shell, solid: TopoDS_Solid) -> bool:
    """Whether a shell lies within a solid, judged by one of its vertices."""
    classifier = BRepClass3d_SolidClassifier(solid)
    classifier.Perform(BRep_Tool.Pnt_s(vertices_of(shell)[0]), _INSIDE_WITHIN)
    return bool(classifier.State() == TopAbs_State.TopAbs_IN)


def connect_edges(shapes: Sequence[TopoDS_Shape], tolerance: float) -> list[TopoDS_Shape]:
    """Wires of the edges of some shapes that end where another begins.

    Raises:
        KernelRefused: when the kernel fails over them.
    """
    with kernel_call("connecting curves"):
        loose, wires = ShapeSequence(), ShapeSequence()
        for shape in shapes:
            for edge in edges_of(shape):
                loose.Append(edge)
        ShapeAnalysis_FreeBounds.ConnectEdgesToWires_s(loose, tolerance, False, wires)
        return [wires.Value(i) for i in range(1, wires.Length() + 1)]
