"""The largest distance between the surfaces of two bodies, sampled on both."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.Geom import Geom_Surface
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec, gp_Vec2d
from OCP.IntTools import IntTools_FClass2d
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_State
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import compound_of, edges_of, faces_of
from gondrel.core.kernel.geometry.sampling import points_along
from gondrel.core.kernel.measure.mass import box_of, diagonal_of
from gondrel.core.work.late import late

__all__ = ["ACCURACY", "METHOD", "Deviation", "away_from", "measure_deviation", "one_way_deviation"]

_spatial = late("scipy.spatial")

METHOD = (
    "sample points inside and on the rim of every face of either body, up to {limit} in all, each "
    "projected on the nearest trimmed faces of the other; where no face lies across from a point or "
    "more than 0.001 mm is left, the exact distance is taken for the 40 worst points"
)
ACCURACY = 1e-7
"""Convergence of the projections, mm."""

_LIMIT = 1500
_PER_FACE = 12
_PER_EDGE = 41
_DENSE = 40
_INSIDE = 24
_DOUBT = 1e-3
_ADDED = 1e-4
_MOST_EXACT = 40


@dataclass(frozen=True, slots=True)
class Deviation:
    """The largest deviation found, mm, its place in the bodies' frame, and how many samples."""

    value: float
    at: tuple[float, float, float]
    samples: int


def measure_deviation(one: TopoDS_Shape, other: TopoDS_Shape) -> Deviation:
    """Largest distance from sample points of each body to the other, both ways.

    A missing face is seen from the body that still has it. Raises KernelRefused.

    Source: one-sided distances in both directions (Hausdorff distance on samples); own choice of
    samples: nodes and centroids of a coarse triangulation, which cover every face and its rim.
    Points beside a face do not count as lying across from it, so a shifted rim is seen.
    Where every sample lies on the face of the same place of the other body, no other is looked for.
    """
    with kernel_call("measuring the deviation of two bodies"):
        same = _face_by_face(one, other)
        if same is not None:
            return same
        first, second = _Sampled(one), _Sampled(other)
        there, back = first.farthest_from(second), second.farthest_from(first)
    worst = max(there, back, key=lambda d: d.value)
    return Deviation(worst.value, worst.at, there.samples + back.samples)


def one_way_deviation(shape: TopoDS_Shape, others: Sequence[TopoDS_Shape]) -> float:
    """How far sample points of a shape lie off the nearest of some others, mm: what was there is kept
    when it is small, whatever was added. Raises KernelRefused.

    Source: as measure_deviation, in one direction.
    """
    with kernel_call("measuring what a mend moved"):
        if not faces_of(shape):
            return _curves_off(shape, others)
        sampled = _Sampled(shape)
        points = np.concatenate(sampled.points) if sampled.points else np.zeros((0, 3))
        points = _thinned(points, _LIMIT)
        if not len(points) or not others:
            return 0.0
        sides = [other for other in map(_Sampled, others) if other.tree is not None]
        if not sides:
            raise KernelRefused("what is there now has no surface to measure to")
        best = np.min([other.distances(points) for other in sides], axis=0)
        return float(np.max(np.where(np.isfinite(best), best, 0.0)))


def _curves_off(shape: TopoDS_Shape, others: Sequence[TopoDS_Shape]) -> float:
    """As one_way_deviation for a body of curves: the exact distance of points along them."""
    worst = 0.0
    for point in _along_edges(shape).tolist():
        vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*point)).Vertex()
        extrema = [BRepExtrema_DistShapeShape(vertex, other) for other in others]
        worst = max(worst, min((float(f.Value()) for f in extrema if f.IsDone()), default=0.0))
    return worst


Away = Callable[[NDArray[np.float64]], NDArray[np.float32]]
"""Points (n, 3) float64 to their distances from something (n,) float32, mm."""


def away_from(shape: TopoDS_Shape) -> Away:
    """How far points lie from the surfaces of a body, for colouring a mesh; the body is sampled once.

    Returns: a function from points in the body's frame. Where no face lies across from a point, it is
    the distance to the nearest sample of the body's triangulation, which is never too small. It raises
    KernelRefused when the kernel fails over the body.

    Raises:
        KernelRefused: when the kernel fails over the body.

    Source: as measure_deviation.
    """
    doing = "measuring the deviation of a mesh from a body"
    with kernel_call(doing):
        sampled = _Sampled(shape)

    def away(points: NDArray[np.float64]) -> NDArray[np.float32]:
        if not len(points) or sampled.tree is None:
            return np.zeros(len(points), np.float32)
        with kernel_call(doing):
            distances = sampled.distances(points)
            nearest, _ = sampled.tree.query(points)
            return np.where(np.isfinite(distances), distances, nearest).astype(np.float32)

    return away


def _face_by_face(one: TopoDS_Shape, other: TopoDS_Shape) -> Deviation | None:
    """The deviation of two bodies whose faces lie on each other one by one in their order; None where a
    sample of a face does not lie on the other body's face of the same place."""
    sides = faces_of(one), faces_of(other)
    count = len(sides[0])
    if not count or count != len(sides[1]):
        return None
    chosen, size = _spread(count, _LIMIT), diagonal_of(one)
    most = min(max(_LIMIT // count, 1), 2 * _PER_FACE)
    worst, samples = Deviation(-1.0, (0.0, 0.0, 0.0), 0), 0
    for here, there in (sides, sides[::-1]):
        _mesh(compound_of([here[i] for i in chosen]), size)
        for index in chosen:
            points = np.concatenate([_thinned(p, _PER_FACE) for p in _samples(here[index])])
            start = index % max(len(points), 1) if most == 1 else 0
            points = points[start : start + 1] if most == 1 else _thinned(points, most)
            across = _Across(there[index])
            for point in points:
                gap = across.distance(gp_Pnt(*point.tolist()))
                if not gap <= ACCURACY:
                    return None
                if gap > worst.value:
                    x, y, z = (float(v) for v in point)
                    worst = Deviation(gap, (x, y, z), 0)
            samples += len(points)
    return Deviation(max(worst.value, 0.0), worst.at, samples)


def _mesh(shape: TopoDS_Shape, size: float) -> None:
    """Triangulate a shape coarsely for its size, mm."""
    BRepMesh_IncrementalMesh(shape, max(size / 300, 1e-4), False, 0.5, True)


class _Across:
    """Projects on one face."""

    def __init__(self, face: TopoDS_Face) -> None:
        surface = BRep_Tool.Surface_s(face)
        self._surface = ShapeAnalysis_Surface(surface)
        self._inside = IntTools_FClass2d(face, _ADDED)
        u = surface.UPeriod() if surface.IsUPeriodic() else 0.0
        v = surface.VPeriod() if surface.IsVPeriodic() else 0.0
        self._turns = [
            gp_Vec2d(i * u, j * v) for i in ((-1, 0, 1) if u else (0,)) for j in ((-1, 0, 1) if v else (0,))
        ]

    def distance(self, point: gp_Pnt) -> float:
        """Distance to the face across from a point, mm; infinite where it does not lie across."""
        place = self._surface.ValueOfUV(point, ACCURACY)
        gap = float(self._surface.Gap())
        if ACCURACY < gap < _NEARLY:
            place, gap = _nearer(self._surface.Surface(), point, place, gap)
        return gap if self._is_inside(place) else float("inf")

    def _is_inside(self, place: gp_Pnt2d) -> bool:
        """Whether a place on the surface lies in the face. Where the surface closes, one that is past the
        end of the face by a rounding is taken by the kernel to its other end; so each turn is tried."""
        return self._inside.Perform(place) != TopAbs_State.TopAbs_OUT or any(
            self._inside.Perform(place.Translated(turn), False) != TopAbs_State.TopAbs_OUT
            for turn in (self._turns if len(self._turns) > 1 else ())
        )


class _Sampled:
    """A body with points on each of its faces and a way to project on them."""

    def __init__(self, shape: TopoDS_Shape) -> None:
        self.shape = shape
        self.faces = faces_of(shape)
        _mesh(shape, diagonal_of(shape))
        samples = [_samples(face) for face in self.faces]
        self.points = [_thinned(p, _PER_FACE) for pair in samples for p in pair]
        dense = [np.concatenate([_thinned(p, _DENSE) for p in pair]) for pair in samples]
        self.owner = np.concatenate([np.zeros(0), *(np.full(len(p), i) for i, p in enumerate(dense))])
        cloud = np.concatenate(dense) if dense else np.zeros((0, 3))
        self.tree = _spatial.cKDTree(cloud) if len(cloud) else None
        self.boxes = np.array([box_of(face) for face in self.faces]).reshape(-1, 6)
        self.surfaces: dict[int, _Across] = {}

    def farthest_from(self, other: _Sampled) -> Deviation:
        points = np.concatenate(self.points) if self.points else np.zeros((0, 3))
        points = _thinned(points, _LIMIT)
        if not len(points) or other.tree is None:
            return Deviation(0.0, (0.0, 0.0, 0.0), 0)
        distances = other.distances(points)
        distances[~np.isfinite(distances)] = 0.0  # beyond the 40 worst; never larger than those
        worst = int(np.argmax(distances))
        x, y, z = (float(v) for v in points[worst])
        return Deviation(float(distances[worst]), (x, y, z), len(points))

    def distances(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Distance of each point (n, 3) to this body's faces; infinite where none lies across from it.

        For the 40 worst the exact distance is taken.
        """
        assert self.tree is not None
        _, near = self.tree.query(points, k=min(6, len(self.owner)))
        near = np.atleast_2d(near.reshape(len(points), -1))
        distances = np.array(
            [
                self.distance(point, list(dict.fromkeys(self.owner[row].astype(int))))
                for point, row in zip(points, near, strict=True)
            ]
        )
        for index in np.flatnonzero(distances > _DOUBT).tolist():
            distances[index] = self.among_all(points[index], float(distances[index]))
        for index in np.argsort(distances)[::-1][:_MOST_EXACT]:
            if distances[index] <= _DOUBT:
                break
            distances[index] = self.exact(points[index])
        return distances

    def among_all(self, point: NDArray[np.float64], best: float) -> float:
        """The distance to the nearest of all faces whose boxes are nearer than what was found: where a
        wall is thin, the samples nearest to a point may all be those of its other side."""
        beyond = np.maximum(self.boxes[:, :3] - point, point - self.boxes[:, 3:]).clip(min=0.0)
        to_box = np.linalg.norm(beyond, axis=1)
        for index in np.argsort(to_box).tolist():
            if to_box[index] >= best or best <= _DOUBT:
                break
            best = min(best, self.distance(point, [index]))
        return best

    def distance(self, point: NDArray[np.float64], faces: Sequence[int]) -> float:
        """Distance to the nearest face across from the point; infinite when there is none."""
        best = np.inf
        target = gp_Pnt(*map(float, point))
        for index in faces:
            if index not in self.surfaces:
                self.surfaces[index] = _Across(self.faces[index])
            best = min(best, self.surfaces[index].distance(target))
            if best <= ACCURACY:
                break
        return float(best)

    def exact(self, point: NDArray[np.float64]) -> float:
        vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*map(float, point))).Vertex()
        search = BRepExtrema_DistShapeShape(vertex, self.shape)
        # Inside a solid the distance is zero; the rim of the other shape is what counts.
        if search.IsDone() and not search.InnerSolution():
            return float(search.Value())
        shell = BRepExtrema_DistShapeShape(vertex, self._skin())
        return float(shell.Value()) if shell.IsDone() else 0.0

    def _skin(self) -> TopoDS_Shape:
        return compound_of(self.faces)


def _nearer(surface: Geom_Surface, point: gp_Pnt, place: gp_Pnt2d, gap: float) -> tuple[gp_Pnt2d, float]:
    """A foot that the kernel's projection left unfinished, by a few steps of Gauss and Newton."""
    u, v = place.Coord()
    for _ in range(_FOOT_STEPS):
        at, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
        surface.D1(u, v, at, du, dv)
        off = gp_Vec(at, point)
        a, b, c = du.Dot(du), du.Dot(dv), dv.Dot(dv)
        e, f, det = du.Dot(off), dv.Dot(off), a * c - b * b
        if det <= 1e-16 * a * c:
            break
        u, v = u + (c * e - b * f) / det, v + (a * f - b * e) / det
        now = float(surface.Value(u, v).Distance(point))
        if now >= gap:
            break
        place, gap = gp_Pnt2d(u, v), now
    return place, gap


_NEARLY, _FOOT_STEPS = 1e-2, 40
"""Gap, mm, from which a foot is not just unfinished; and steps that finish one."""


def _samples(face: TopoDS_Face) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Nodes of a face's triangulation, and points of the face in the middle of its triangles."""
    location = TopLoc_Location()
    triangulation = BRep_Tool.Triangulation_s(face, location)
    if triangulation is None or triangulation.NbNodes() == 0:
        return _along_edges(face), np.zeros((0, 3))  # its loops make no sense; they are still there
    if not triangulation.HasUVNodes():
        places = [triangulation.Node(i) for i in range(1, triangulation.NbNodes() + 1)]
        if not location.IsIdentity():
            places = [place.Transformed(location.Transformation()) for place in places]
        return np.array([place.Coord() for place in places]), np.zeros((0, 3))
    # On the surface itself: an edge may lie beside it by as much as its tolerance.
    surface = BRep_Tool.Surface_s(face)
    flat = [triangulation.UVNode(i) for i in range(1, triangulation.NbNodes() + 1)]
    chosen = [flat[i] for i in _spread(len(flat), _DENSE)]
    nodes = np.array([surface.Value(p.X(), p.Y()).Coord() for p in chosen])
    inside = IntTools_FClass2d(face, ACCURACY)
    middles = []
    for index in _spread(triangulation.NbTriangles(), _INSIDE):
        corners = [flat[n - 1] for n in triangulation.Triangle(index + 1).Get()]
        u, v = (sum(c) / 3 for c in zip(*(c.Coord() for c in corners), strict=True))
        # Where a face is narrower than its triangles are true, their middles may lie beside it.
        if inside.Perform(gp_Pnt2d(u, v)) != TopAbs_State.TopAbs_OUT:
            middles.append(surface.Value(u, v).Coord())
    return nodes, np.array(middles).reshape(-1, 3)


def _along_edges(shape: TopoDS_Shape) -> NDArray[np.float64]:
    points = []
    for edge in edges_of(shape):
        if not BRep_Tool.Degenerated_s(edge):
            points.append(points_along(edge, _PER_EDGE))
    return np.concatenate(points) if points else np.zeros((0, 3))


def _spread(count: int, most: int) -> list[int]:
    """Indices below a count, evenly spread, at most so many."""
    if count <= most:
        return list(range(count))
    return [round(i * (count - 1) / (most - 1)) for i in range(most)]


def _thinned(points: NDArray[np.float64], most: int) -> NDArray[np.float64]:
    thinned: NDArray[np.float64] = points[_spread(len(points), most)]
    return thinned
