"""A kernel body as a plain boundary: no seams, no degenerated edges, rings without vertices."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, field, replace

from OCP.BRep import BRep_Tool
from OCP.BRepClass3d import BRepClass3d
from OCP.BRepLib import BRepLib
from OCP.BRepTools import BRepTools
from OCP.Geom import Geom_Surface
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Vertex

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.convert.geometry_out import (
    Described,
    curve_of,
    plane_curve_of,
    point_of,
    surface_of,
)
from gondrel.core.kernel.geometry.basis import basis_of
from gondrel.core.kernel.topology.rings import HalfEdge, Rings, rings_of
from gondrel.core.kernel.topology.split import prepare
from gondrel.core.kernel.topology.tolerances import gap_between
from gondrel.core.model.boundary import Boundary, Edge, Face, Fin, Vertex, connected
from gondrel.core.model.geometry import Circle, Cone, Curve, Ellipse, OnSurface, Torus

__all__ = ["EXACT", "Outcome", "boundary_of"]

EXACT = 1e-5
"""Distance in mm within which an edge's curve must lie on its faces' surfaces to be an exact edge
(1e-8 m, the linear resolution of the XT format)."""

_SAMPLES = 23
_FACE, _EDGE, _SHELL = (
    TopAbs_ShapeEnum.TopAbs_FACE,
    TopAbs_ShapeEnum.TopAbs_EDGE,
    TopAbs_ShapeEnum.TopAbs_SHELL,
)


@dataclass(frozen=True, slots=True)
class Outcome:
    """A boundary, and what had to be changed for it, in words."""

    boundary: Boundary
    changes: tuple[str, ...]


def boundary_of(shape: TopoDS_Shape) -> Outcome:
    """One body as a boundary. The `source` of each face is its place in faces_of the shape.

    Raises:
        KernelRefused: when the kernel fails over it, or it joins more than two faces at an edge.
    """
    ready = prepare(shape)
    with kernel_call("describing a body"):
        made = _Describer(ready.shape, ready.sources).describe()
    return Outcome(made, ready.changes)


@dataclass(slots=True)
class _FaceWork:
    face: TopoDS_Face
    surface: Geom_Surface
    described: Described
    rings: Rings
    source: int


@dataclass(slots=True)
class _EdgeWork:
    edge: TopoDS_Edge
    coedges: list[tuple[int, HalfEdge]] = field(default_factory=list)


class _Describer:
    """Collects faces, edges and vertices of a shape and numbers them."""

    def __init__(self, shape: TopoDS_Shape, sources: tuple[int, ...]) -> None:
        self.shape = shape
        self.faces, self.edges, self.vertices = ShapeMap(), ShapeMap(), ShapeMap()
        for kind, shapes in (
            (_FACE, self.faces),
            (_EDGE, self.edges),
            (TopAbs_ShapeEnum.TopAbs_VERTEX, self.vertices),
        ):
            TopExp.MapShapes_s(shape, kind, shapes)
        self.same: dict[int, int] = {}
        self.sources = sources
        self.works: list[_FaceWork] = []
        self.coedges: dict[int, _EdgeWork] = {}
        self.edge_numbers: dict[int, int] = {}
        self.vertex_numbers: dict[int, int] = {}
        self.made_edges: list[Edge] = []
        self.made_vertices: list[Vertex] = []
        self.fin_curves: dict[tuple[int, int, bool], OnSurface] = {}

    def describe(self) -> Boundary:
        """The boundary of the shape."""
        kind = self.shape.ShapeType()
        if kind == TopAbs_ShapeEnum.TopAbs_SOLID:
            shells = self._solid_shells()
            self._take_faces([f for shell in shells for f in shell])
            return self._finished("solid", shells)
        if kind in (_SHELL, _FACE):
            faces = _sub(self.shape, _FACE)
            self._take_faces(faces)
            return self._finished("sheet", [faces])
        if kind == TopAbs_ShapeEnum.TopAbs_VERTEX:
            point = point_of(BRep_Tool.Pnt_s(TopoDS.Vertex(self.shape)))
            return Boundary("point", vertices=(Vertex(point),), points=(0,))
        return self._wire()

    def _solid_shells(self) -> list[list[TopoDS_Shape]]:
        outer = BRepClass3d.OuterShell_s(TopoDS.Solid(self.shape))
        shells = _sub(self.shape, _SHELL)
        shells.sort(key=lambda shell: not shell.IsSame(outer))
        return [_sub(shell, _FACE) for shell in shells]

    # --- faces -----------------------------------------------------------------------------

    def _take_faces(self, faces: list[TopoDS_Shape]) -> None:
        for shape in faces:
            face = TopoDS.Face(shape)
            surface = basis_of(BRep_Tool.Surface_s(face))
            described = surface_of(surface, face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED)
            rings = rings_of(face, self.edges, self.vertices)
            described = _lemon(face, described)
            source = self.sources[self.faces.FindIndex(face) - 1]
            place = len(self.works)
            self.works.append(_FaceWork(face, surface, described, rings, source))
            for loop in rings.loops:
                self._join_ends(loop)
                for half in loop:
                    work = self.coedges.setdefault(half.key, _EdgeWork(half.edge))
                    work.coedges.append((place, half))

    def _join_ends(self, loop: list[HalfEdge]) -> None:
        """Take two vertices for one where an edge follows another without sharing theirs."""
        for half in loop:
            follower = half.next
            if follower is None:
                continue
            end = self._end_key(half.edge, half.forward)
            start = self._end_key(follower.edge, not follower.forward)
            if end != start:
                self.same[max(end, start)] = min(end, start)

    def _key(self, vertex: TopoDS_Vertex) -> int:
        key = int(self.vertices.FindIndex(vertex))
        while key in self.same:
            key = self.same[key]
        return key

    def _end_key(self, edge: TopoDS_Edge, last: bool) -> int:
        return self._key(_ends(edge)[last])

    def _finished(self, kind: str, shells: list[list[TopoDS_Shape]]) -> Boundary:
        lone = self._lone_vertices()
        counted = self._vertex_coedges(lone)
        for key, work in self.coedges.items():
            self._check_coedges(kind, work)
            self._take_edge(key, work, counted)
        faces = tuple(self._face(place, work) for place, work in enumerate(self.works))
        numbers: list[tuple[int, ...]] = []
        at = 0
        for shell in shells:
            numbers.append(tuple(range(at, at + len(shell))))
            at += len(shell)
        made = Boundary(kind, tuple(self.made_vertices), tuple(self.made_edges), faces)
        return (
            replace(made, regions=(tuple(numbers),))
            if kind == "solid"
            else replace(made, shells=tuple(numbers))
        )

    def _check_coedges(self, kind: str, work: _EdgeWork) -> None:
        senses = [half.forward for _, half in work.coedges]
        if kind == "solid" and sorted(senses) != [False, True]:
            at = point_of(BRep_Tool.Pnt_s(TopExp.FirstVertex_s(work.edge)))
            where = ", ".join(f"{v:.3f}" for v in at)
            if len(senses) == 1:
                raise KernelRefused(f"a solid is open at an edge near ({where}) mm")
            raise KernelRefused(f"{len(senses)} faces of a solid meet at one edge near ({where}) mm")

    def _lone_vertices(self) -> dict[int, int]:
        """Apexes of cones that no edge touches: place of the face by key of the vertex."""
        touched: set[int] = set()
        for work in self.coedges.values():
            touched.update(self._key(v) for v in _ends(work.edge))
        vertices = {}
        for place, work_ in enumerate(self.works):
            for key in work_.rings.singular:
                if isinstance(work_.described.surface, Cone) and key not in touched:
                    vertices[key] = place
        return vertices

    def _vertex_coedges(self, lone: dict[int, int]) -> Counter[int]:
        counted: Counter[int] = Counter(lone.keys())
        for work in self.coedges.values():
            counted.update({self._key(v) for v in _ends(work.edge)})
        self.lone = {place: key for key, place in lone.items()}
        return counted

    def _face(self, place: int, work: _FaceWork) -> Face:
        turned = work.face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        loops = []
        for loop in work.rings.loops:
            fins = []
            for half in loop:
                curve = self.fin_curves.get((place, half.key, half.forward))
                fins.append(Fin(self.edge_numbers[half.key], half.forward, curve=curve))
            loops.append(tuple(fins))
        if place in self.lone:
            loops.append((Fin(None, vertex=self._vertex(self.lone[place])),))
        return Face(
            work.described.surface,
            turned != work.described.is_same_side,
            tuple(loops),
            source=work.source,
        )

    # --- edges and vertices ----------------------------------------------------------------

    def _take_edge(self, key: int, work: _EdgeWork, counted: Counter[int]) -> None:
        edge = TopoDS.Edge(work.edge.Oriented(TopAbs_Orientation.TopAbs_FORWARD))
        curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
        if curve is None:
            BRepLib.BuildCurve3d_s(edge)
            curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
            if curve is None:
                raise KernelRefused("an edge has no curve and none can be made")
        first, last = BRep_Tool.Range_s(edge)
        made = curve_of(curve, first, last)
        ends = _ends(edge)
        keys = [self._key(v) for v in ends]
        is_ring = (
            isinstance(made, Circle | Ellipse)
            and keys[0] == keys[1]
            and counted[keys[0]] == 1
            and abs(last - first - 2 * math.pi) < 1e-9
        )
        gap = self._gap(edge, work) if BRep_Tool.Tolerance_s(edge) > EXACT else 0.0
        start, end = (None, None) if is_ring else (self._vertex(keys[0]), self._vertex(keys[1]))
        self.edge_numbers[key] = len(self.made_edges)
        if gap > EXACT and self._take_fin_curves(key, edge, work, made):
            self.made_edges.append(Edge(None, start, end, gap, key - 1))
        else:
            self.made_edges.append(Edge(made, start, end, gap if gap > EXACT else None, key - 1))

    def _gap(self, edge: TopoDS_Edge, work: _EdgeWork) -> float:
        """How far the edge's curve lies off its faces' surfaces, by their curves on them, mm."""
        curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
        worst = 0.0
        for place, _ in work.coedges:
            owner = self.works[place]
            pcurve = BRep_Tool.CurveOnSurface_s(edge, owner.face, 0.0, 0.0)
            if pcurve is not None:
                gap = gap_between(curve, pcurve, owner.surface, *BRep_Tool.Range_s(edge), samples=_SAMPLES)
                worst = max(worst, gap)
        return worst

    def _take_fin_curves(self, key: int, edge: TopoDS_Edge, work: _EdgeWork, made: Curve) -> bool:
        """Curves on the surfaces for the uses of a tolerant edge; False when one of them has none."""
        first, last = BRep_Tool.Range_s(edge)
        on_surfaces: dict[tuple[int, int, bool], OnSurface] = {}
        for place, half in work.coedges:
            owner = self.works[place]
            curve = BRep_Tool.CurveOnSurface_s(edge, owner.face, 0.0, 0.0)
            if curve is None:
                return False
            if half.forward:
                pcurve = plane_curve_of(curve, first, last, owner.described.parameters)
            else:  # a fin's curve runs along its fin
                ends = curve.ReversedParameter(last), curve.ReversedParameter(first)
                pcurve = plane_curve_of(curve.Reversed(), *ends, owner.described.parameters)
            original = made if half.forward else None
            on_surfaces[place, key, half.forward] = OnSurface(
                owner.described.surface, pcurve, original=original
            )
        self.fin_curves.update(on_surfaces)
        return True

    def _vertex(self, key: int) -> int:
        if key not in self.vertex_numbers:
            vertex = TopoDS.Vertex(self.vertices.FindKey(key))
            tolerance = BRep_Tool.Tolerance_s(vertex)
            self.vertex_numbers[key] = len(self.made_vertices)
            self.made_vertices.append(
                Vertex(point_of(BRep_Tool.Pnt_s(vertex)), tolerance if tolerance > EXACT else None)
            )
        return self.vertex_numbers[key]

    # --- wires -----------------------------------------------------------------------------

    def _wire(self) -> Boundary:
        shapes = _sub(self.shape, _EDGE)
        if not shapes:
            raise KernelRefused(f"a {self.shape.ShapeType().name} holds no geometry")
        works = {self.edges.FindIndex(s): _EdgeWork(TopoDS.Edge(s)) for s in shapes}
        counted: Counter[int] = Counter()
        for work in works.values():
            counted.update({self._key(v) for v in _ends(work.edge)})
        for key, work in works.items():
            if not BRep_Tool.Degenerated_s(work.edge):
                self._take_edge(key, work, counted)
        parts = connected(self.made_edges, range(len(self.made_edges)))
        return Boundary("wire", tuple(self.made_vertices), tuple(self.made_edges), wires=parts)


def _lemon(face: TopoDS_Face, described: Described) -> Described:
    """A torus that crosses itself, by the part that the face lies on: a lemon inside, an apple outside.

    The format tells the inner part by a negative major radius.
    """
    torus = described.surface
    if not isinstance(torus, Torus) or torus.major > torus.minor:
        return described
    _, _, low, high = BRepTools.UVBounds_s(face)
    if torus.major + torus.minor * math.cos((low + high) / 2) >= 0:
        return described
    return replace(described, surface=replace(torus, major=-torus.major))


def _sub(shape: TopoDS_Shape, kind: TopAbs_ShapeEnum) -> list[TopoDS_Shape]:
    shapes, explorer = [], TopExp_Explorer(shape, kind)
    while explorer.More():
        shapes.append(explorer.Current())
        explorer.Next()
    return shapes


def _ends(edge: TopoDS_Edge) -> tuple[TopoDS_Vertex, TopoDS_Vertex]:
    first, last = TopExp.FirstVertex_s(edge), TopExp.LastVertex_s(edge)
    if first.IsNull() or last.IsNull():
        raise KernelRefused("an edge without an end can't be described")
    return first, last
