"""A body laid out as plain figures for the checks: edges with their uses, faces, gaps; measured once.

Lengths mm, areas mm2. Indices of faces, edges and vertices are those of the B-rep, from 0.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepCheck import BRepCheck_Analyzer, BRepCheck_Face, BRepCheck_Status, BRepCheck_Wire
from OCP.BRepGProp import BRepGProp
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.Geom import Geom_BSplineCurve, Geom_BSplineSurface, Geom_Plane
from OCP.gp import gp_Pln, gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from gondrel.core.kernel.boundary_in import is_inside_out
from gondrel.core.kernel.calls import kernel_call
from gondrel.core.kernel.measure import measure, surface_kind
from gondrel.core.kernel.shape import edges_of, faces_of, kind_of, vertices_of
from gondrel.core.model.body import BodyFacts, BodyKind

__all__ = [
    "EdgeLook",
    "FaceLook",
    "Gap",
    "Inspection",
    "SplineLook",
    "inspect_shape",
]

Point = tuple[float, float, float]

_SAMPLES = 21
_LENGTH_ERROR = 1e-7
_LAID = 1e-6
"""Distance below which an edge is taken to lie on a surface, mm."""


@dataclass(frozen=True, slots=True)
class EdgeLook:
    """One edge.

    Args:
        uses: (face, whether it runs forward there); a seam is used twice by one face.
        ends: its first and last vertex, equal for a closed one; middle: a point half way.
        off_ends: how far its curve ends lie from those vertices; end_points: where its curve ends.
    """

    index: int
    length: float
    kind: str
    uses: tuple[tuple[int, bool], ...]
    ends: tuple[int, int]
    middle: Point
    tolerance: float
    off_ends: float
    is_degenerate: bool
    end_points: tuple[Point, Point] = ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))


@dataclass(frozen=True, slots=True)
class FaceLook:
    """One face.

    Args:
        perimeter: summed length of its edges; middle: a point on or near it; is_valid: whether the
            kernel's own check finds nothing; flaw: what the kernel finds with its loops, in a word.
    """

    index: int
    kind: str
    area: float
    perimeter: float
    middle: Point
    is_valid: bool
    flaw: str


@dataclass(frozen=True, slots=True)
class Gap:
    """How far an edge lies off the surface of one of its faces, and where most.

    Args:
        feet: where points evenly spread along the edge come to lie on the surface, (n, 3), mm; none where
            the edge lies on it.
    """

    edge: int
    face: int
    distance: float
    at: Point
    feet: NDArray[np.float64] | None = None


@dataclass(frozen=True, slots=True)
class SplineLook:
    """A B-spline curve (of an edge) or surface (of a face).

    Args:
        kink: largest turn of the tangent inside it, degrees, and kink_at where, mm; closest: least
            distance of neighbouring knots as a share of the whole range; poles, degree: the largest
            of both directions.
    """

    index: int
    is_face: bool
    degree: int
    poles: int
    kink: float
    kink_at: Point
    closest: float
    middle: Point


class Inspection:
    """A body's figures, each worked out when first asked for."""

    def __init__(self, shape: TopoDS_Shape) -> None:
        self.shape = shape
        self.kind: BodyKind = kind_of(shape)

    @cached_property
    def face_shapes(self) -> list[TopoDS_Face]:
        """The faces themselves, by index."""
        return list(faces_of(self.shape))

    @cached_property
    def facts(self) -> BodyFacts:
        """Volume, area, box and counts."""
        return measure(self.shape)

    @cached_property
    def vertices(self) -> list[tuple[Point, float]]:
        """Point and tolerance of each vertex."""
        return [
            (_point(BRep_Tool.Pnt_s(v)), float(BRep_Tool.Tolerance_s(v))) for v in vertices_of(self.shape)
        ]

    @cached_property
    def edges(self) -> list[EdgeLook]:
        """Every edge."""
        with kernel_call("looking at edges"):
            return self._edges()

    def _edges(self) -> list[EdgeLook]:
        order, corners = ShapeMap(), ShapeMap()
        TopExp.MapShapes_s(self.shape, TopAbs_ShapeEnum.TopAbs_EDGE, order)
        TopExp.MapShapes_s(self.shape, TopAbs_ShapeEnum.TopAbs_VERTEX, corners)
        uses: list[list[tuple[int, bool]]] = [[] for _ in range(order.Extent())]
        for place, face in enumerate(self.face_shapes):
            explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
            while explorer.More():
                edge = explorer.Current()
                forward = edge.Orientation() == TopAbs_Orientation.TopAbs_FORWARD
                index = order.FindIndex(edge)
                bounds = forward or edge.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
                if index and bounds:
                    uses[index - 1].append((place, forward))
                explorer.Next()
        looks = []
        for index, edge in enumerate(edges_of(self.shape)):
            ends = [
                corners.FindIndex(v) - 1 for v in (TopExp.FirstVertex_s(edge), TopExp.LastVertex_s(edge))
            ]
            degenerate = bool(BRep_Tool.Degenerated_s(edge))
            length, kind, off = 0.0, "point", 0.0
            middle = self.vertices[ends[0]][0] if ends[0] >= 0 else (0.0, 0.0, 0.0)
            points = (middle, middle)
            if not degenerate:
                curve = BRepAdaptor_Curve(edge)
                kind = curve.GetType().name.removeprefix("GeomAbs_").removesuffix("Curve").lower()
                length = float(GCPnts_AbscissaPoint.Length_s(curve, _LENGTH_ERROR))
                first, last = curve.FirstParameter(), curve.LastParameter()
                middle = _point(curve.Value((first + last) / 2))
                points = (_point(curve.Value(first)), _point(curve.Value(last)))
                off = max(
                    (
                        math.dist(point, self.vertices[v][0])
                        for point, v in zip(points, ends, strict=True)
                        if v >= 0
                    ),
                    default=0.0,
                )
            looks.append(
                EdgeLook(
                    index, length, kind, tuple(uses[index]), (ends[0], ends[1]), middle,
                    float(BRep_Tool.Tolerance_s(edge)), off, degenerate, points,
                )
            )  # fmt: skip
        return looks

    @cached_property
    def faces(self) -> list[FaceLook]:
        """Every face."""
        with kernel_call("looking at faces"):
            analyzer = BRepCheck_Analyzer(self.shape, True)
            return [self._face(place, face, analyzer) for place, face in enumerate(self.face_shapes)]

    def _face(self, place: int, face: TopoDS_Face, analyzer: BRepCheck_Analyzer) -> FaceLook:
        area, outline = GProp_GProps(), GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, area)
        BRepGProp.LinearProperties_s(face, outline)
        valid = bool(analyzer.IsValid(face))
        return FaceLook(
            index=place,
            kind=surface_kind(face),
            area=float(area.Mass()),
            perimeter=float(outline.Mass()),
            middle=_point(area.CentreOfMass()),
            is_valid=valid,
            flaw="" if valid else _loop_flaw(face),
        )

    def cosine(self, one: int, other: int) -> float:
        """Cosine of the angle between the normals of two plane faces; 0 when one of them is not plane."""
        surfaces = [BRep_Tool.Surface_s(self.face_shapes[face]) for face in (one, other)]
        if not all(isinstance(surface, Geom_Plane) for surface in surfaces):
            return 0.0
        a, b = (surface.Pln().Axis().Direction() for surface in surfaces)
        return float(a.Dot(b))

    @cached_property
    def is_valid(self) -> bool:
        """Whether the kernel's own check of the whole finds nothing."""
        with kernel_call("checking a body"):
            return bool(BRepCheck_Analyzer(self.shape, True).IsValid())

    @cached_property
    def is_inside_out(self) -> bool:
        """Whether a solid's material lies outside its skin."""
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
        order = ShapeMap()
        TopExp.MapShapes_s(self.shape, TopAbs_ShapeEnum.TopAbs_EDGE, order)
        found = []
        for place, face in enumerate(self.face_shapes):
            surface = BRep_Tool.Surface_s(face)
            if surface is None:
                continue
            project = ShapeAnalysis_Surface(surface)
            plane = surface.Pln() if isinstance(surface, Geom_Plane) else None
            seen: set[int] = set()
            explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
            while explorer.More():
                edge = TopoDS.Edge(explorer.Current())
                explorer.Next()
                index = order.FindIndex(edge)
                if index in seen or BRep_Tool.Degenerated_s(edge):
                    continue
                seen.add(index)
                curve = BRepAdaptor_Curve(edge)
                worst, at = 0.0, gp_Pnt()
                feet: list[Point] = []
                for t in np.linspace(curve.FirstParameter(), curve.LastParameter(), _SAMPLES).tolist():
                    point = curve.Value(t)
                    if plane is not None:
                        away = float(plane.Distance(point))
                        feet.append(_point(point) if away < _LAID else _foot(plane, point))
                    else:
                        flat = project.ValueOfUV(point, 1e-7)
                        away = float(project.Gap())
                        feet.append(_point(point) if away < _LAID else _point(project.Value(flat)))
                    if away > worst:
                        worst, at = away, point
                laid = np.array(feet) if worst >= _LAID else None
                found.append(Gap(index - 1, place, worst, _point(at), laid))
        return found

    @cached_property
    def along_edges(self) -> dict[int, list[Gap]]:
        """The gaps of each edge to the surfaces of its faces."""
        found: dict[int, list[Gap]] = {}
        for gap in self.gaps:
            found.setdefault(gap.edge, []).append(gap)
        return found

    def along(self, edge: int) -> NDArray[np.float64]:
        """Points evenly spread along an edge, as those of the gaps, (n, 3), mm."""
        curve = BRepAdaptor_Curve(edges_of(self.shape)[edge])
        ts = np.linspace(curve.FirstParameter(), curve.LastParameter(), _SAMPLES).tolist()
        return np.array([_point(curve.Value(t)) for t in ts])

    @cached_property
    def splines(self) -> list[SplineLook]:
        """Every B-spline curve and surface."""
        with kernel_call("looking at splines"):
            found = []
            for place, face in enumerate(self.face_shapes):
                surface = BRep_Tool.Surface_s(face)
                if isinstance(surface, Geom_BSplineSurface):
                    u = (surface.UKnots(), surface.UMultiplicities(), surface.UDegree())
                    v = (surface.VKnots(), surface.VMultiplicities(), surface.VDegree())
                    kink, at = _surface_kink(surface, face)
                    found.append(
                        SplineLook(
                            place, True, max(u[2], v[2]), max(surface.NbUPoles(), surface.NbVPoles()),
                            kink, at, min(_closest(u[0]), _closest(v[0])), _point(_middle_of(face)),
                        )
                    )  # fmt: skip
            for place, edge in enumerate(edges_of(self.shape)):
                curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
                if isinstance(curve, Geom_BSplineCurve):
                    kink, at = _curve_kink(curve)
                    found.append(
                        SplineLook(
                            place, False, curve.Degree(), curve.NbPoles(), kink, at,
                            _closest(curve.Knots()), self.edges[place].middle,
                        )
                    )  # fmt: skip
            return found


def inspect_shape(shape: TopoDS_Shape) -> Inspection:
    """The inspection of a shape. Raises KernelRefused when it holds no geometry."""
    return Inspection(shape)


def _curve_kink(curve: Geom_BSplineCurve) -> tuple[float, Point]:
    """The largest angle between the tangents on both sides of an inner knot, degrees, and where."""
    worst, at = 0.0, (0.0, 0.0, 0.0)
    for index in range(curve.FirstUKnotIndex() + 1, curve.LastUKnotIndex()):
        if curve.Multiplicity(index) < curve.Degree():
            continue
        point, before, after = gp_Pnt(), gp_Vec(), gp_Vec()
        curve.LocalD1(curve.Knot(index), index - 1, index, point, before)
        curve.LocalD1(curve.Knot(index), index, index + 1, point, after)
        if min(before.Magnitude(), after.Magnitude()) > 0.0:
            angle = float(np.degrees(before.Angle(after)))
            if angle > worst:
                worst, at = angle, _point(point)
    return worst, at


def _surface_kink(surface: Geom_BSplineSurface, face: TopoDS_Face) -> tuple[float, Point]:
    """As for a curve, along parameter lines spread over the face."""
    trim = BRepAdaptor_Surface(face, True)
    worst: tuple[float, Point] = (0.0, (0.0, 0.0, 0.0))
    across = (
        (surface.UMultiplicities(), surface.UDegree(), surface.VIso, "V"),
        (surface.VMultiplicities(), surface.VDegree(), surface.UIso, "U"),
    )
    for many, degree, line, other in across:
        if all(m < degree for m in list(many)[1:-1]):
            continue
        low, high = (getattr(trim, f"{end}{other}Parameter")() for end in ("First", "Last"))
        for share in (0.1, 0.5, 0.9):
            curve = line(low + share * (high - low))
            if isinstance(curve, Geom_BSplineCurve):
                worst = max(worst, _curve_kink(curve))
    return worst


def _foot(plane: gp_Pln, point: gp_Pnt) -> Point:
    normal = plane.Axis().Direction()
    away = gp_Vec(plane.Location(), point).Dot(gp_Vec(normal))
    return (
        float(point.X() - away * normal.X()),
        float(point.Y() - away * normal.Y()),
        float(point.Z() - away * normal.Z()),
    )


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
