"""Faces made anew from what is around them, or taken away so that their neighbours meet."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAlgoAPI import BRepAlgoAPI_Defeaturing
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.Geom import Geom_Plane
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of, kind_of, split_bodies
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.measure.point_on_face import face_at, inner_point
from gondrel.core.kernel.repair.shells import Made, copied, filled_boundary, open_boundaries_of, plane_cap
from gondrel.core.kernel.topology.completion import Completion
from gondrel.core.kernel.topology.sew import sew_faces

__all__ = ["rebuild_faces", "remove_faces", "remove_steps"]


def rebuild_faces(shape: TopoDS_Shape, numbers: Collection[int], tolerance: float) -> Made:
    """A body with some faces made anew within the edges of their neighbours.

    A face stays on its surface where the boundary that the others leave lies on it; else that is filled.

    Args:
        numbers: of the faces, from 0; tolerance: how far a boundary may lie off the old surface, mm.

    Raises:
        KernelRefused: when the others leave no closed boundary, or no face can be made in it.
    """
    with kernel_call("making faces anew"):
        faces = faces_of(copied(shape))
        for number in sorted(numbers):
            others = [face for place, face in enumerate(faces) if place != number]
            joined = sew_faces(others, tolerance)
            left = [each for body in joined.bodies for each in open_boundaries_of(body.shape)]
            boundaries = [each for each in left if _lies_near(each, faces[number], tolerance)] or left
            if not boundaries:
                raise KernelRefused(f"the neighbours of face {number + 1} leave no closed rim")
            parts = [face for body in joined.bodies for face in faces_of(body.shape)]
            faces[number] = _within(boundaries, faces[number], parts, tolerance)
        closed = sew_faces(faces, tolerance)
        return [(body.kind, body.shape) for body in closed.bodies]


def _within(
    boundaries: Sequence[TopoDS_Wire], old: TopoDS_Face, others: Sequence[TopoDS_Shape], tolerance: float
) -> TopoDS_Face:
    if not all(_lies_near(boundary, old, tolerance) for boundary in boundaries):
        if len(boundaries) > 1:
            raise KernelRefused("several boundaries off the old surface can't be filled by one face")
        return filled_boundary(boundaries[0])
    surface = BRep_Tool.Surface_s(old)
    made = _against(boundaries, old, others)
    if BRepCheck_Analyzer(made).IsValid() or not isinstance(surface, Geom_Plane):
        return made
    return plane_cap(surface.Pln(), list(boundaries))


def _against(
    boundaries: Sequence[TopoDS_Wire], old: TopoDS_Face, others: Sequence[TopoDS_Shape]
) -> TopoDS_Face:
    """A face whose edges each run against their use by the neighbour; seams are made."""
    known = ShapeMap()
    uses: dict[int, TopAbs_Orientation] = {}
    for face in others:
        explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
        while explorer.More():
            edge = explorer.Current()
            uses[known.Add(edge)] = edge.Orientation()
            explorer.Next()
    turned = old.Orientation() == _REVERSED
    builder, face = BRep_Builder(), TopoDS_Face()
    builder.MakeFace(face, BRep_Tool.Surface_s(old), BRep_Tool.Tolerance_s(old))
    for boundary in boundaries:
        wire = TopoDS_Wire()
        builder.MakeWire(wire)
        for edge in edges_of(boundary):
            use = uses.get(known.FindIndex(edge), _FORWARD)
            against = (use == _FORWARD) == turned
            builder.Add(wire, edge.Oriented(_FORWARD if against else _REVERSED))
        wire.Closed(True)
        builder.Add(face, wire)
    made = faces_of(Completion().completed(face))
    if not made:
        raise KernelRefused("no face can be made within the boundaries that the others leave")
    return TopoDS.Face(made[0].Oriented(old.Orientation()))


_FORWARD, _REVERSED = TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED


def _lies_near(boundary: TopoDS_Wire, face: TopoDS_Face, tolerance: float) -> bool:
    """Whether a boundary lies on a face's surface."""
    project = ShapeAnalysis_Surface(BRep_Tool.Surface_s(face))
    for edge in edges_of(boundary):
        curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
        first, last = BRep_Tool.Range_s(edge)
        for share in (0.0, 0.25, 0.5, 0.75, 1.0):
            project.ValueOfUV(curve.Value(first + share * (last - first)), 1e-7)
            if project.Gap() > tolerance:
                return False
    return True


def remove_faces(shape: TopoDS_Shape, numbers: Collection[int]) -> Made:
    """A solid without some faces, its other faces extended until they meet.

    Raises:
        KernelRefused: when the neighbours do not meet, or it is no solid.
    """
    with kernel_call("removing faces"):
        faces = faces_of(shape)
        work = BRepAlgoAPI_Defeaturing()
        work.SetShape(shape)
        for number in numbers:
            work.AddFaceToRemove(faces[number])
        work.SetRunParallel(True)
        work.Build()
        if not work.IsDone() or work.Shape().IsNull():
            raise KernelRefused("the neighbours do not meet when the face is taken away")
        made = work.Shape()
        if len(faces_of(made)) >= len(faces):
            raise KernelRefused("the neighbours do not meet when the face is taken away")
        return list(split_bodies(made))


def remove_steps(shape: TopoDS_Shape, numbers: Collection[int]) -> Made:
    """As remove_faces, one after another; where the neighbours of one are parallel and so never meet,
    the smaller of the two is taken away with it, which makes a tiny step go.

    Raises:
        KernelRefused: as remove_faces.
    """
    if not numbers:
        raise KernelRefused("no face was pointed at")
    places = [inner_point(faces_of(shape)[number]) for number in sorted(numbers)]
    made: Made = [(kind_of(shape), shape)]
    for place in places:
        number = face_at(made[0][1], place)
        if number is None:
            continue  # it went with another
        try:
            made = remove_faces(made[0][1], [number])
        except KernelRefused:
            made = remove_faces(made[0][1], [number, _smaller_neighbour(made[0][1], number)])
    return made


def _smaller_neighbour(shape: TopoDS_Shape, number: int) -> int:
    """Of the two faces that share the longest edges with a face, the one of less area."""
    body = inspect_shape(shape)
    longest = body.longest_neighbours(number)[:2]
    if len(longest) < 2:
        raise KernelRefused("the neighbours do not meet when the face is taken away")
    return min(longest, key=lambda face: body.faces[face].area)
