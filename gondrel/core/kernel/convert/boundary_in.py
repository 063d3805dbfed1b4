"""A plain boundary as kernel bodies.

The kernel wants what other boundaries leave out: seams, degenerated edges, a vertex on every edge and
curves in each surface's parameters. They are made here; the geometry stays as it was given, but for
kinds the kernel does not have, which are approximated and told.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepLib import BRepLib
from OCP.Geom import (
    Geom_BSplineCurve,
    Geom_Circle,
    Geom_Curve,
    Geom_Ellipse,
    Geom_Plane,
    Geom_Surface,
    Geom_ToroidalSurface,
)
from OCP.Geom2d import Geom2d_Curve
from OCP.GeomAPI import GeomAPI_ProjectPointOnCurve
from OCP.GeomProjLib import GeomProjLib
from OCP.gp import gp_Pnt
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeFix import ShapeFix_Shape
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import (
    TopoDS,
    TopoDS_Edge,
    TopoDS_Face,
    TopoDS_Shape,
    TopoDS_Shell,
    TopoDS_Solid,
    TopoDS_Vertex,
    TopoDS_Wire,
)

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of, split_bodies
from gondrel.core.kernel.convert.geometry_in import CurveMaker
from gondrel.core.kernel.geometry.splines import pcurve_in
from gondrel.core.kernel.measure.orientation import is_inside_out
from gondrel.core.kernel.topology.completion import Completion
from gondrel.core.kernel.topology.tolerances import gap_between
from gondrel.core.model.body import BodyKind
from gondrel.core.model.boundary import Boundary, Edge, Face, Fin
from gondrel.core.model.geometry import (
    BSurface,
    Cone,
    Curve,
    Cylinder,
    OnSurface,
    Plane,
    Sphere,
    Surface,
    Torus,
    Trimmed,
)

__all__ = ["BodyMaker", "BoundaryEdges", "MadeBody", "Making"]

_TOLERANCE = 1e-7
_LARGEST = 1e-3
_FORWARD, _REVERSED = TopAbs_Orientation.TopAbs_FORWARD, TopAbs_Orientation.TopAbs_REVERSED
_SAMPLES = 23
_PLAIN = (Plane, Cylinder, Cone, Sphere, Torus, BSurface)


@dataclass(frozen=True, slots=True)
class MadeBody:
    """A kernel body, and for each face of the boundary the places of its parts in faces_of."""

    kind: BodyKind
    shape: TopoDS_Shape
    faces: dict[int, tuple[int, ...]]


@dataclass(slots=True)
class Making:
    """The bodies of a boundary, and what is to be told of the making, in words."""

    bodies: list[MadeBody] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)


class BoundaryEdges:
    """The vertices and edges of a boundary as those of the kernel, each once."""

    def __init__(self, boundary: Boundary) -> None:
        self.boundary = boundary
        self.builder = BRep_Builder()
        self.curves = CurveMaker()
        self.vertices: dict[int, TopoDS_Vertex] = {}
        self.edges: dict[int, TopoDS_Edge] = {}
        self.faces_of_edge: dict[int, list[int]] = {}
        for number, face in enumerate(boundary.faces):
            for loop in face.loops:
                for fin in loop:
                    if fin.edge is not None:
                        self.faces_of_edge.setdefault(fin.edge, []).append(number)

    def vertex(self, number: int) -> TopoDS_Vertex:
        """A vertex by its number."""
        if number not in self.vertices:
            given = self.boundary.vertices[number]
            self.vertices[number] = self._new_vertex(gp_Pnt(*given.point), given.tolerance)
        return self.vertices[number]

    def _new_vertex(self, point: gp_Pnt, tolerance: float | None = None) -> TopoDS_Vertex:
        vertex = TopoDS_Vertex()
        self.builder.MakeVertex(vertex, point, max(tolerance or 0.0, _TOLERANCE))
        return vertex

    def edge(self, number: int) -> TopoDS_Edge:
        """An edge by its number. Raises KernelRefused when it makes no sense."""
        if number not in self.edges:
            self.edges[number] = self._new_edge(number, self.boundary.edges[number])
        return self.edges[number]

    def _new_edge(self, number: int, given: Edge) -> TopoDS_Edge:
        curve = self.curves.curve(given.curve) if given.curve is not None else self._edge_curve_of(number)
        tolerance = max(given.tolerance or 0.0, _TOLERANCE)
        edge = TopoDS_Edge()
        if given.start is None or given.end is None:
            first = self._seam_parameter(number, curve)
            last = first + (curve.Period() if curve.IsPeriodic() else curve.LastParameter() - first)
            start = end = self._new_vertex(curve.Value(first))
        else:
            start, end = self.vertex(given.start), self.vertex(given.end)
            ends = BRep_Tool.Pnt_s(start), BRep_Tool.Pnt_s(end)
            if (
                given.curve is None and self._original(number) is None
            ):  # a fin's curve is as long as its edge
                first, last = curve.FirstParameter(), curve.LastParameter()
            else:
                curve, first, last = _between(curve, *ends, given.start == given.end, tolerance)
        self.builder.MakeEdge(edge, curve, tolerance)
        self.builder.Add(edge, start.Oriented(_FORWARD))
        self.builder.Add(edge, end.Oriented(_REVERSED))
        self.builder.Range(edge, first, last)
        for vertex, at in ((start, first), (end, last)):
            gap = curve.Value(at).Distance(BRep_Tool.Pnt_s(vertex))
            if gap > BRep_Tool.Tolerance_s(vertex):
                self.builder.UpdateVertex(vertex, gap * 1.001)
        return edge

    def _edge_curve_of(self, number: int) -> Geom_Curve:
        """The curve in space of an edge that is only told by curves on its faces."""
        kept = self._original(number)
        if kept is not None:
            return kept
        for face in self.faces_of_edge.get(number, ()):
            for loop in self.boundary.faces[face].loops:
                for fin in loop:
                    if fin.edge == number and fin.curve is not None:
                        return self._along_edge(self._from_fin(fin), number, fin)
        raise KernelRefused("an edge has no curve, nor have its fins")

    def _original(self, number: int) -> Geom_Curve | None:
        """The curve that the fins' curves were made from, where a forward fin keeps it."""
        for face in self.faces_of_edge.get(number, ()):
            for loop in self.boundary.faces[face].loops:
                for fin in loop:
                    on_surface = _basis(fin.curve)
                    if fin.edge != number or not fin.forward or not isinstance(on_surface, OnSurface):
                        continue
                    if on_surface.original is not None and not on_surface.flipped:
                        return self.curves.curve(on_surface.original)
        return None

    def _along_edge(self, curve: Geom_Curve, number: int, fin: Fin) -> Geom_Curve:
        """A fin's curve runs along its fin; where the vertices tell otherwise, they are believed."""
        edge = self.boundary.edges[number]
        forth = fin.forward
        if edge.start is not None and edge.end is not None and edge.start != edge.end:
            begin = curve.Value(curve.FirstParameter())
            away = [begin.Distance(BRep_Tool.Pnt_s(self.vertex(v))) for v in (edge.start, edge.end)]
            forth = away[0] <= away[1]
        return curve if forth else curve.Reversed()

    def _from_fin(self, fin: Fin) -> Geom_Curve:
        on_surface = _basis(fin.curve)
        if not isinstance(on_surface, OnSurface):
            assert on_surface is not None
            made = self.curves.curve(on_surface)
        else:
            surface = self.curves.surface(on_surface.surface).surface
            pcurve = pcurve_in(on_surface.curve, _to_kernel(on_surface.surface))
            edge = BRepBuilderAPI_MakeEdge(pcurve, surface).Edge()
            if not BRepLib.BuildCurve3d_s(edge, 1e-6):
                raise KernelRefused("no curve in space could be made of a curve on a surface")
            made = BRep_Tool.Curve_s(edge, 0.0, 0.0)
            if on_surface.flipped:
                made = made.Reversed()
        return made

    def _seam_parameter(self, number: int, curve: Geom_Curve) -> float:
        """Where a ring gets its vertex: on the seam of a round neighbour, so that they meet."""
        if not isinstance(curve, Geom_Circle | Geom_Ellipse):
            return float(curve.FirstParameter())
        for face in self.faces_of_edge.get(number, ()):
            surface = self.boundary.faces[face].surface
            if isinstance(surface, Cylinder | Cone | Sphere | Torus):
                origin = surface.centre if isinstance(surface, Sphere | Torus) else surface.point
                way = curve.Position()
                axis = gp_Pnt(*origin)
                far = [o + 1e6 * x for o, x in zip(origin, surface.x_axis, strict=True)]
                # the plane through axis and x axis, cut with the circle, on the side of the x axis
                centre = way.Location()
                side = gp_Pnt(*(far[i] - (axis.Coord()[i] - centre.Coord()[i]) for i in range(3)))
                if side.Distance(centre) > 1.0:
                    foot = GeomAPI_ProjectPointOnCurve(side, curve)
                    if foot.NbPoints() > 0:
                        return float(foot.LowerDistanceParameter())
        return 0.0


class BodyMaker(BoundaryEdges):
    """Makes the bodies of a boundary."""

    def __init__(self, boundary: Boundary) -> None:
        super().__init__(boundary)
        self.made_faces: dict[int, TopoDS_Face] = {}

    def make(self) -> Making:
        """All bodies of the boundary. Raises KernelRefused when one can't be made."""
        with kernel_call("making a body"):
            return self._make()

    def _make(self) -> Making:
        out = Making()
        for region in self.boundary.regions:
            self._solid(region, out)
        for shell in self.boundary.shells:
            self._healed(self._shell(shell), shell, BodyKind.SHEET, out)
        for wire in self.boundary.wires:
            out.bodies.append(MadeBody(BodyKind.WIRE, self._wire(wire), {}))
        for number in self.boundary.points:
            out.bodies.append(MadeBody(BodyKind.POINT, self.vertex(number), {}))
        kinds = {kind: self.curves.approximated.count(kind) for kind in self.curves.approximated}
        for kind, count in kinds.items():
            out.remarks.append(
                f"{count} of the kind {kind} approximated to {self.curves.deviation:.1e} mm or better"
            )
        return out

    # --- faces -----------------------------------------------------------------------------

    def _face(self, number: int) -> TopoDS_Face:
        if number not in self.made_faces:
            self.made_faces[number] = self._new_face(self.boundary.faces[number])
        return self.made_faces[number]

    def _new_face(self, given: Face) -> TopoDS_Face:
        made = self.curves.surface(given.surface)
        turned = made.is_opposed == given.forward
        loops = [loop for loop in given.loops if any(fin.edge is not None for fin in loop)]
        if not loops:
            face = BRepBuilderAPI_MakeFace(made.surface, _TOLERANCE).Face()
            return TopoDS.Face(face.Reversed()) if turned else face
        face = TopoDS_Face()
        self.builder.MakeFace(face, made.surface, max(given.tolerance or 0.0, _TOLERANCE))
        for loop in loops:
            wire = TopoDS_Wire()
            self.builder.MakeWire(wire)
            for fin in reversed(loop) if turned else loop:
                if fin.edge is not None:
                    edge = self.edge(fin.edge)
                    given_flat = self._given_flat(fin, edge)
                    self._lay(edge, made.surface, face, given_flat)
                    forward = fin.forward != turned
                    self.builder.Add(wire, edge.Oriented(_FORWARD if forward else _REVERSED))
            wire.Closed(True)
            self.builder.Add(face, wire)
        return TopoDS.Face(face.Reversed()) if turned else face

    def _given_flat(self, fin: Fin, edge: TopoDS_Edge) -> Geom2d_Curve | None:
        """The curve in a surface's parameters that a fin brings with it, along the edge, where it fits."""
        on_surface = _basis(fin.curve)
        if not isinstance(on_surface, OnSurface) or on_surface.flipped:
            return None
        pcurve = pcurve_in(on_surface.curve, _to_kernel(on_surface.surface))
        if not fin.forward:
            pcurve.Reverse()
        first, last = BRep_Tool.Range_s(edge)
        apart = abs(pcurve.FirstParameter() - first) + abs(pcurve.LastParameter() - last)
        fits = apart < 1e-9 * (last - first)
        return pcurve if fits else None

    def _lay(
        self, edge: TopoDS_Edge, surface: Geom_Surface, face: TopoDS_Face, given: Geom2d_Curve | None
    ) -> None:
        """Give an edge its curve in the parameters of a face, and the tolerance that it needs there."""
        if isinstance(surface, Geom_Plane) or _crosses_itself(surface):
            return  # planes need none; on a torus that crosses itself healing finds the right part
        curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
        first, last = BRep_Tool.Range_s(edge)
        pcurve = given if given is not None else GeomProjLib.Curve2d_s(curve, first, last, surface)
        if pcurve is None:
            return  # healing makes one
        tolerance = BRep_Tool.Tolerance_s(edge)
        gap = gap_between(curve, pcurve, surface, first, last, samples=_SAMPLES)
        if gap > max(_LARGEST, 2 * tolerance):
            return  # projecting lost its way; healing makes a curve of its own
        self.builder.UpdateEdge(edge, pcurve, face, max(tolerance, gap * 1.001))

    # --- shells, solids, wires -------------------------------------------------------------

    def _shell(self, faces: tuple[int, ...]) -> TopoDS_Shell:
        shell = TopoDS_Shell()
        self.builder.MakeShell(shell)
        for number in faces:
            face = self._face(number if number >= 0 else -1 - number)
            self.builder.Add(shell, face if number >= 0 else face.Reversed())
        return shell

    def _solid(self, region: tuple[tuple[int, ...], ...], out: Making) -> None:
        solid = TopoDS_Solid()
        self.builder.MakeSolid(solid)
        for faces in region:
            shell = self._shell(faces)
            shell.Closed(True)
            self.builder.Add(solid, shell)
        self._healed(solid, tuple(f for faces in region for f in faces), BodyKind.SOLID, out)

    def _healed(self, shape: TopoDS_Shape, faces: tuple[int, ...], kind: BodyKind, out: Making) -> None:
        """Have seams and degenerated edges made; the pieces of a torn body are told.

        Curved faces alone need it. Where one of them does not come out sound, or lies on a surface
        whose natural side is not certain, the whole body goes through the kernel's healing, which
        costs many times as much.
        """
        completion = Completion()
        made = completion.completed(shape)
        kept, now = [(kind, made)], completion.now
        plain = all(isinstance(face.surface, _PLAIN) for face in self.boundary.faces)
        if not plain or not _is_sound(made):
            fix = ShapeFix_Shape(shape)
            fix.SetPrecision(_TOLERANCE)
            fix.SetMaxTolerance(_LARGEST)
            fix.Perform()
            kept, now = split_bodies(fix.Shape()), fix.Context().Apply
        if not kept:
            raise KernelRefused("nothing was left of a body when its seams were made")
        if len(kept) > 1 or kept[0][0] is not kind:
            pieces = ", ".join(k.value for k, _ in kept)
            out.remarks.append(f"a {kind.value} body does not hang together; it came out as {pieces}")
        for piece_kind, piece in kept:
            if piece_kind is BodyKind.SOLID and is_inside_out(piece):
                piece = piece.Reversed()
                out.remarks.append("a solid was inside out; its orientation was turned")
            out.bodies.append(MadeBody(piece_kind, piece, self._traced(now, faces, piece)))

    def _traced(
        self, now: Callable[[TopoDS_Shape], TopoDS_Shape], faces: tuple[int, ...], piece: TopoDS_Shape
    ) -> dict[int, tuple[int, ...]]:
        order = ShapeMap()
        TopExp.MapShapes_s(piece, TopAbs_ShapeEnum.TopAbs_FACE, order)
        traced: dict[int, tuple[int, ...]] = {}
        for number in faces:
            plain = number if number >= 0 else -1 - number
            places = [order.FindIndex(part) for part in faces_of(now(self._face(plain)))]
            if any(places):
                traced[plain] = tuple(place - 1 for place in places if place)
        return traced

    def _wire(self, numbers: tuple[int, ...]) -> TopoDS_Shape:
        if len(numbers) == 1:
            return self.edge(numbers[0])
        wire = TopoDS_Wire()
        self.builder.MakeWire(wire)
        for number in numbers:
            self.builder.Add(wire, self.edge(number))
        return wire


def _is_sound(shape: TopoDS_Shape) -> bool:
    """Whether every curved face is valid by itself, with its edges' curves on it."""
    for face in faces_of(shape):
        if isinstance(BRep_Tool.Surface_s(face), Geom_Plane):
            continue
        if not BRepCheck_Analyzer(face).IsValid():
            return False
    return True


def _basis(curve: Curve | None) -> Curve | None:
    while isinstance(curve, Trimmed):
        curve = curve.basis
    return curve


def _crosses_itself(surface: Geom_Surface) -> bool:
    return isinstance(surface, Geom_ToroidalSurface) and surface.MajorRadius() < surface.MinorRadius()


def _parameter(curve: Geom_Curve, point: gp_Pnt, tolerance: float) -> float:
    for end in (curve.FirstParameter(), curve.LastParameter()):
        if abs(end) < 1e100 and curve.Value(end).Distance(point) <= tolerance:
            return float(end)
    foot = GeomAPI_ProjectPointOnCurve(point, curve)
    if foot.NbPoints() == 0:
        ends = (curve.FirstParameter(), curve.LastParameter())
        return float(min(ends, key=lambda end: curve.Value(end).Distance(point)))
    return float(foot.LowerDistanceParameter())


def _between(
    curve: Geom_Curve, start: gp_Pnt, end: gp_Pnt, is_whole: bool, tolerance: float
) -> tuple[Geom_Curve, float, float]:
    """A curve and the stretch of it from one point to another along it."""
    first = _parameter(curve, start, tolerance)
    closed = curve.IsClosed()
    if is_whole and closed:
        if isinstance(curve, Geom_BSplineCurve) and not curve.IsPeriodic():
            if abs(first - curve.FirstParameter()) < 1e-9 or abs(first - curve.LastParameter()) < 1e-9:
                return curve, curve.FirstParameter(), curve.LastParameter()
            curve = _periodic(curve)
        return curve, first, first + curve.Period()
    last = _parameter(curve, end, tolerance)
    if closed and isinstance(curve, Geom_BSplineCurve) and last <= first:
        ends = curve.FirstParameter(), curve.LastParameter()
        if abs(first - ends[1]) < 1e-9:
            first = ends[0]
        elif abs(last - ends[0]) < 1e-9:
            last = ends[1]
        else:
            curve = _periodic(curve)
    if curve.IsPeriodic():
        period = curve.Period()
        while last <= first + 1e-12 * period:
            last += period
        while last > first + period * (1 + 1e-12):
            last -= period
    if not last > first:
        raise KernelRefused("an edge runs against its curve, or has no length")
    return curve, first, last


def _periodic(curve: Geom_BSplineCurve) -> Geom_BSplineCurve:
    made = Geom_BSplineCurve(curve)
    made.SetPeriodic()
    return made


def _to_kernel(surface: Surface) -> tuple[float, float, float, float]:
    """Rows of the matrix from the model's parameters to the kernel's, whose cone runs along its slant."""
    slant = 1 / math.cos(surface.half_angle) if isinstance(surface, Cone) else 1.0
    return 1.0, 0.0, 0.0, slant
