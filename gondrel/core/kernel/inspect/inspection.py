"""A body laid out as plain figures for the checks: edges with their coedges, faces, gaps; measured once.

Lengths mm, areas mm2. Indices of faces, edges and vertices are those of the B-rep, from 0.
"""

from __future__ import annotations

import itertools
import math
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepCheck import BRepCheck_Analyzer, BRepCheck_Face, BRepCheck_Status, BRepCheck_Wire
from OCP.BRepGProp import BRepGProp
from OCP.Geom import (
    Geom_BSplineCurve,
    Geom_BSplineSurface,
    Geom_ElementarySurface,
    Geom_Plane,
    Geom_Surface,
)
from OCP.gp import gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import compound_of, edges_of, faces_of, kind_of, vertices_of
from gondrel.core.kernel.geometry.basis import basis_of
from gondrel.core.kernel.geometry.continuity import curve_kink, surface_kink
from gondrel.core.kernel.geometry.elementary import KINDS, ElementarySurfaces, elementary_surfaces_of
from gondrel.core.kernel.geometry.projection import feet_beyond
from gondrel.core.kernel.geometry.sampling import along_circles, points_along
from gondrel.core.kernel.inspect.edge_records import edge_records
from gondrel.core.kernel.inspect.records import EdgeRecord, FaceRecord, Gap, Point, SplineRecord
from gondrel.core.kernel.inspect.validity import Validity, faces_plainly_valid
from gondrel.core.kernel.measure.mass import measure, surface_kind
from gondrel.core.kernel.measure.orientation import is_inside_out
from gondrel.core.kernel.topology.coedges import Coedges, coedges_of
from gondrel.core.kernel.topology.tolerances import gap_between
from gondrel.core.model.body import BodyFacts, BodyKind

__all__ = [
    "Inspection",
    "inspect_shape",
]

_SAMPLES = 21
_NEAR_ENOUGH = 1e-4
"""Gap below which it is not measured more exactly, mm."""

_NO_AREA = 1e-10
_LAID = 1e-6
"""Distance below which an edge is taken to lie on a surface, mm."""


class Inspection:
    """A body's figures, each worked out when first asked for.

    Args:
        facts: its measures where they are known already.

    `memo` is a place for what others work out once for several checks.
    """

    def __init__(self, shape: TopoDS_Shape, facts: BodyFacts | None = None) -> None:
        self.shape = shape
        self._facts = facts
        self.kind: BodyKind = kind_of(shape)
        self.memo: dict[str, Any] = {}

    @cached_property
    def face_shapes(self) -> list[TopoDS_Face]:
        """The faces themselves, by index."""
        return list(faces_of(self.shape))

    @cached_property
    def surfaces(self) -> list[Geom_Surface | None]:
        """The surfaces of the faces, by index, without trimming wrappers."""
        surfaces = [BRep_Tool.Surface_s(face) for face in self.face_shapes]
        return [basis_of(surface) if surface is not None else None for surface in surfaces]

    @cached_property
    def forms(self) -> ElementarySurfaces:
        """The elementary ones among the surfaces, as plain figures."""
        return elementary_surfaces_of(self.surfaces)

    @cached_property
    def facts(self) -> BodyFacts:
        """Volume, area, box and counts."""
        return self._facts if self._facts is not None else measure(self.shape)

    @cached_property
    def edge_shapes(self) -> list[TopoDS_Edge]:
        """The edges themselves, by index."""
        return list(edges_of(self.shape))

    @cached_property
    def vertices(self) -> list[tuple[Point, float]]:
        """Point and tolerance of each vertex."""
        return [(BRep_Tool.Pnt_s(v).Coord(), BRep_Tool.Tolerance_s(v)) for v in vertices_of(self.shape)]

    @cached_property
    def edges(self) -> list[EdgeRecord]:
        """Every edge."""
        with kernel_call("looking at edges"):
            return edge_records(self.shape, self.edge_shapes, self.coedges, self.vertices)

    @cached_property
    def coedges(self) -> Coedges:
        """Every use of an edge by a face, loop by loop."""
        order = ShapeMap()
        with kernel_call("looking at loops"):
            TopExp.MapShapes_s(self.shape, TopAbs_ShapeEnum.TopAbs_EDGE, order)
            return coedges_of(self.face_shapes, order)

    @cached_property
    def faces(self) -> list[FaceRecord]:
        """Every face."""
        with kernel_call("looking at faces"):
            areas = self.validity.areas
            rest = compound_of([self.face_shapes[n] for n in np.flatnonzero(np.isnan(areas))])
            analyzer = BRepCheck_Analyzer(rest, True, True)
            return [self._face(place, float(area), analyzer) for place, area in enumerate(areas.tolist())]

    @cached_property
    def validity(self) -> Validity:
        """Which faces are plainly sound, with their areas."""
        return faces_plainly_valid(
            self.face_shapes, self.forms, self.coedges, self.edges, self.vertices, self.samples
        )

    def _face(self, place: int, area: float, analyzer: BRepCheck_Analyzer) -> FaceRecord:
        face, flaw, valid = self.face_shapes[place], "", True
        form = self.forms.kind[place]
        if math.isnan(area):
            area = float(self._properties(place).Mass())
            valid = bool(analyzer.IsValid(face))
            flaw = "" if valid else _loop_flaw(face)
        kind = KINDS[form] if form >= 0 else surface_kind(face)
        return FaceRecord(place, kind, area, self._perimeters[place], valid, flaw)

    def _properties(self, place: int) -> GProp_GProps:
        """The kernel's area and centroid of a face."""
        known: dict[int, GProp_GProps] = self.memo.setdefault("properties", {})
        if place not in known:
            known[place] = GProp_GProps()
            BRepGProp.SurfaceProperties_s(self.face_shapes[place], known[place])
        return known[place]

    def area_of(self, place: int) -> float:
        """The area of a face by the kernel's integration, mm2."""
        with kernel_call("measuring a face"):
            return float(self._properties(place).Mass())

    def middle_of(self, place: int) -> Point:
        """The centroid of a face, on or near it; the middle of its edges where it has next to no area."""
        around = self._perimeters[place]
        with kernel_call("measuring a face"):
            area = self._properties(place)
            if abs(area.Mass()) > _NO_AREA * around * around:
                return _point(area.CentreOfMass())
        edges = [e for e in self.edges if place in {face for face, _ in e.coedges}]
        points = [self.along(edge.index).mean(axis=0) for edge in edges] or [np.zeros(3)]
        x, y, z = (float(v) for v in np.mean(points, axis=0))
        return x, y, z

    def longest_neighbours(self, face: int) -> list[int]:
        """Other faces at a face's edges, each once, by the longest edge they share."""
        shared = [
            (edge.length, other)
            for edge in self.edges
            if face in {f for f, _ in edge.coedges}
            for other in {f for f, _ in edge.coedges} - {face}
        ]
        return list(dict.fromkeys(other for _, other in sorted(shared, reverse=True)))

    @cached_property
    def _perimeters(self) -> list[float]:
        perimeters = [0.0] * len(self.face_shapes)
        for edge in self.edges:
            for face, _ in edge.coedges:
                perimeters[face] += edge.length
        return perimeters

    def cosine(self, one: int, other: int) -> float:
        """Cosine of the angle between the normals of two plane faces; 0 when one of them is not plane."""
        first, second = self.surfaces[one], self.surfaces[other]
        if not isinstance(first, Geom_Plane) or not isinstance(second, Geom_Plane):
            return 0.0
        return float(first.Pln().Axis().Direction().Dot(second.Pln().Axis().Direction()))

    @cached_property
    def is_valid(self) -> bool:
        """Whether the kernel's own check of the whole finds nothing."""
        with kernel_call("checking a body"):
            return bool(BRepCheck_Analyzer(self.shape, True, True).IsValid())

    @cached_property
    def is_inside_out(self) -> bool:
        """Whether a solid's material lies outside its skin: the volume of a closed one is negative then."""
        if self.kind is BodyKind.SOLID and all(len(e.coedges) == 2 or e.is_degenerate for e in self.edges):
            return self.facts.volume < 0.0
        with kernel_call("looking which side the material is on"):
            return self.kind is BodyKind.SOLID and is_inside_out(self.shape)

    @cached_property
    def gaps(self) -> list[Gap]:
        """For every edge and curved or plane face it bounds, how far it lies off the surface.

        Source: own: points of the edge's curve, evenly spread, projected on the surface.
        """
        with kernel_call("measuring gaps"):
            return self._gaps()

    def _gaps(self) -> list[Gap]:
        looked_at = self.validity.off < _LAID
        lying = set(
            zip(self.coedges.edge[looked_at].tolist(), self.coedges.face[looked_at].tolist(), strict=True)
        )
        pairs = [
            pair
            for edge in self.edges
            if not edge.is_degenerate
            for pair in dict.fromkeys((edge.index, face) for face, _ in edge.coedges)
            if pair not in lying
        ]
        surfaces = self.surfaces
        near = {
            (edge, face): away
            for edge, face in pairs
            if surfaces[face] is not None
            and not isinstance(surfaces[face], Geom_ElementarySurface)
            and (away := self._by_its_curve(edge, face, surfaces[face])) is not None
            and away < _NEAR_ENOUGH
        }
        rest = np.array([pair for pair in pairs if pair not in near], int).reshape(-1, 2)
        gaps = [Gap(e, f, away, self.edges[e].middle) for (e, f), away in near.items() if away >= _LAID]
        for row, feet in feet_beyond(surfaces, self.forms, rest, self.samples, _LAID):
            edge, face = (int(v) for v in rest[row])
            points = self.samples[edge]
            away = np.linalg.norm(points - feet, axis=1)
            worst = int(np.argmax(away))
            x, y, z = (float(v) for v in points[worst])
            gaps.append(Gap(edge, face, float(away[worst]), (x, y, z), feet))
        return gaps

    def _by_its_curve(self, edge: int, face: int, surface: Geom_Surface) -> float | None:
        """How far an edge lies off a surface by its curve in the surface's parameters: never less than by
        the nearest points; None without such a curve."""
        shape = self.edge_shapes[edge]
        pcurve = BRep_Tool.CurveOnSurface_s(shape, self.face_shapes[face], 0.0, 0.0)
        if pcurve is None:
            return None
        curve = BRep_Tool.Curve_s(shape, 0.0, 0.0)
        first, last = BRep_Tool.Range_s(shape)
        return gap_between(curve, pcurve, surface, first, last, samples=_SAMPLES)

    @cached_property
    def along_edges(self) -> dict[int, list[Gap]]:
        """The gaps of each edge to the surfaces of its faces."""
        gaps: dict[int, list[Gap]] = {}
        for gap in self.gaps:
            gaps.setdefault(gap.edge, []).append(gap)
        return gaps

    @cached_property
    def samples(self) -> NDArray[np.float64]:
        """Points evenly spread along every edge, (edges, points, 3), mm; degenerated ones are points."""
        ends = np.array([edge.end_points for edge in self.edges]).reshape(-1, 2, 3)
        shares = np.linspace(0.0, 1.0, _SAMPLES)[None, :, None]
        points = ends[:, :1] + shares * (ends[:, 1:] - ends[:, :1])
        with kernel_call("looking along edges"):
            rows = [edge.index for edge in self.edges if edge.kind == "circle"]
            if rows:
                points[rows] = along_circles([self.edge_shapes[row] for row in rows], shares[0, :, 0])
            for edge in self.edges:
                if edge.kind not in ("line", "point", "circle"):
                    points[edge.index] = points_along(self.edge_shapes[edge.index], _SAMPLES)
        return np.asarray(points, np.float64)

    def along(self, edge: int) -> NDArray[np.float64]:
        """Points evenly spread along an edge, (n, 3), mm."""
        points: NDArray[np.float64] = self.samples[edge]
        return points

    @cached_property
    def splines(self) -> list[SplineRecord]:
        """Every B-spline curve and surface."""
        with kernel_call("looking at splines"):
            splines = []
            for place, face in enumerate(self.face_shapes):
                surface = self.surfaces[place]
                if isinstance(surface, Geom_BSplineSurface):
                    u = (surface.UKnots(), surface.UMultiplicities(), surface.UDegree())
                    v = (surface.VKnots(), surface.VMultiplicities(), surface.VDegree())
                    kink, at = surface_kink(surface, face)
                    splines.append(
                        SplineRecord(
                            place, True, max(u[2], v[2]), max(surface.NbUPoles(), surface.NbVPoles()),
                            kink, at, min(_closest(u[0]), _closest(v[0])), _point(_middle_of(face)),
                        )
                    )  # fmt: skip
            for place, curve in self.spline_curves.items():
                kink, at = curve_kink(curve)
                splines.append(
                    SplineRecord(
                        place, False, curve.Degree(), curve.NbPoles(), kink, at,
                        _closest(curve.Knots()), self.edges[place].middle,
                    )
                )  # fmt: skip
            return splines

    @cached_property
    def spline_curves(self) -> dict[int, Geom_BSplineCurve]:
        """The curves of those edges that lie on B-splines, by index."""
        odd = (e.index for e in self.edges if e.kind not in ("line", "circle", "ellipse", "point"))
        curves = {place: BRep_Tool.Curve_s(self.edge_shapes[place], 0.0, 0.0) for place in odd}
        return {place: curve for place, curve in curves.items() if isinstance(curve, Geom_BSplineCurve)}


def inspect_shape(shape: TopoDS_Shape, facts: BodyFacts | None = None) -> Inspection:
    """The inspection of a shape. Raises KernelRefused when it holds no geometry."""
    return Inspection(shape, facts)


def _closest(knots: object) -> float:
    """The least knot distance as a share of the range."""
    values = [float(v) for v in knots]  # type: ignore[attr-defined]
    whole = values[-1] - values[0]
    steps = [b - a for a, b in itertools.pairwise(values)]
    return min(steps, default=whole) / whole if whole > 0 else 0.0


def _middle_of(face: TopoDS_Face) -> gp_Pnt:
    surface = BRepAdaptor_Surface(face, True)
    u = (surface.FirstUParameter() + surface.LastUParameter()) / 2
    v = (surface.FirstVParameter() + surface.LastVParameter()) / 2
    return surface.Value(u, v)


def _loop_flaw(face: TopoDS_Face) -> str:
    """What is wrong with the loops of a face: "open", "crossing", "turned", or empty for none of these."""
    explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_WIRE)
    while explorer.More():
        wire: TopoDS_Wire = TopoDS.Wire(explorer.Current())
        explorer.Next()
        if BRepCheck_Wire(wire).Closed(False) == BRepCheck_Status.BRepCheck_NotClosed:
            return "open"
        edges = edges_of(wire)
        if not edges:
            return "open"
        one, other = edges[0], edges[-1]
        if BRepCheck_Wire(wire).SelfIntersect(face, one, other, False) in _CROSSING:
            return "crossing"
    check = BRepCheck_Face(face)
    if check.IntersectWires(False) == BRepCheck_Status.BRepCheck_IntersectingWires:
        return "crossing"
    if check.OrientationOfWires(False) not in (BRepCheck_Status.BRepCheck_NoError,):
        return "turned"
    return ""


_CROSSING = (BRepCheck_Status.BRepCheck_SelfIntersectingWire,)


def _point(point: gp_Pnt) -> Point:
    return (float(point.X()), float(point.Y()), float(point.Z()))
