"""Edges and vertices laid anew where the surfaces of their faces meet.

It works on the plain boundary of a body: vertices go to the point their surfaces have in common, the
edges at them to the curve in which their two surfaces meet. Source: Newton's method for the common
point of surfaces, each replaced by its tangent plane (textbook).
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from OCP.Geom import Geom_Surface
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.convert.boundary_in import BodyMaker, BoundaryEdges
from gondrel.core.kernel.convert.boundary_out import boundary_of
from gondrel.core.kernel.convert.geometry_in import CurveMaker
from gondrel.core.kernel.convert.geometry_out import curve_of, surface_of
from gondrel.core.kernel.geometry.analytic import analytic_surface
from gondrel.core.kernel.geometry.intersection import Foot, intersection_curve, onto_both
from gondrel.core.kernel.geometry.sampling import points_along
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.repair.shells import Made
from gondrel.core.model.boundary import Boundary, Edge, Face, Fin, Vertex
from gondrel.core.model.geometry import Curve, OnSurface

__all__ = ["recut_edges", "to_analytic", "widest_gap"]

_SAMPLES = 17
_TANGENT = 0.02
"""Sine of the angle between two surfaces below which where they meet is not well told."""

_STILL = 1e-7
_ROUNDS = 20
_EXACT = 1e-5
"""How near to both surfaces a curve found must lie, mm."""


def widest_gap(shape: TopoDS_Shape) -> float:
    """The largest distance of an edge from a surface it bounds or a vertex it ends in, mm.

    Raises:
        KernelRefused: when the kernel fails over the body.
    """
    body = inspect_shape(shape)
    return max([gap.distance for gap in body.gaps] + [edge.off_ends for edge in body.edges], default=0.0)


def recut_edges(shape: TopoDS_Shape, gap: float, only: Collection[int] | None = None) -> Made:
    """A body whose edges that lie off a surface, or end before their vertices, by more than a gap (mm) run
    where its surfaces meet.

    Surfaces stay as they are; so do edges whose surfaces run into one another smoothly.

    Args:
        only: faces (by index) whose edges are laid anew; none for all.

    Raises:
        KernelRefused: when no edge lies off, when surfaces do not meet, or the kernel fails.
    """
    with kernel_call("laying edges anew"):
        laid = _PcurveBody(boundary_of(shape).boundary)
        off = {
            number
            for number in laid.used()
            if (only is None or laid.bounds(number, only))
            and max(laid.gap(number), laid.short_of_ends(number)) > gap
        }
        if not off:
            raise KernelRefused("no edge lies off its surfaces")
        return _made(laid.again(off))


def to_analytic(shape: TopoDS_Shape, within: float, only: Collection[int] | None = None) -> Made:
    """A body whose spline faces that lie on a plane, cylinder, cone, sphere or torus have that surface.

    Args:
        within: how far a spline may lie off the analytic surface, mm. Edges of such faces run where
            the new surfaces meet. only: faces (by index) that may be replaced, none for all.

    Raises:
        KernelRefused: when no face is such, or the body can't be laid anew.
    """
    with kernel_call("replacing splines"):
        return _analytic(boundary_of(shape).boundary, within, only)


def _analytic(boundary: Boundary, within: float, only: Collection[int] | None) -> Made:
    faces = list(boundary.faces)
    changed: set[int] = set()
    maker = CurveMaker()
    for number, face in enumerate(faces):
        if only is not None and face.source not in only:
            continue
        made = maker.surface(face.surface)
        analytic = analytic_surface(made.surface, within)
        if analytic is None:
            continue
        described = surface_of(analytic, False)
        again = maker.surface(described.surface)
        middle = _middle(boundary, face)
        old, new = Foot(made.surface).at(middle)[1], Foot(again.surface).at(middle)[1]
        is_same = (float(old @ new) > 0) == (made.is_opposed == again.is_opposed)
        faces[number] = replace(face, surface=described.surface, forward=face.forward == is_same)
        changed.add(number)
    if not changed:
        raise KernelRefused("no spline face lies on an analytic surface")
    edges = tuple(_with_curve(n, edge, boundary) for n, edge in enumerate(boundary.edges))
    bare = tuple(
        replace(
            face, loops=tuple(tuple(_bare(f) if _has_curve(edges, f) else f for f in w) for w in face.loops)
        )
        for face in faces
    )
    laid = _PcurveBody(replace(boundary, faces=bare, edges=edges))
    return _made(laid.again({n for n in laid.used() if changed & set(laid.edges.faces_of_edge[n])}))


def _has_curve(edges: tuple[Edge, ...], fin: Fin) -> bool:
    return fin.edge is not None and edges[fin.edge].curve is not None


def _with_curve(number: int, edge: Edge, boundary: Boundary) -> Edge:
    """A tolerant edge with the curve in space that its fins' curves were made from, where one keeps it."""
    if edge.curve is not None:
        return edge
    for face in boundary.faces:
        for loop in face.loops:
            for fin in loop:
                if fin.edge == number and fin.forward and isinstance(fin.curve, OnSurface):
                    return replace(edge, curve=fin.curve.original)
    return edge


def _bare(fin: Fin) -> Fin:
    return replace(fin, curve=None)


def _middle(boundary: Boundary, face: Face) -> NDArray[np.float64]:
    """A point in the midst of a face's edges."""
    edges = BoundaryEdges(boundary)
    points = [
        _points(edges, fin.edge) for loop in face.loops for fin in loop if fin.edge is not None
    ]  # fmt: skip
    if not points:
        raise KernelRefused("a face without edges has no middle")
    return np.asarray(points[0][len(points[0]) // 2])


def _points(edges: BoundaryEdges, number: int) -> NDArray[np.float64]:
    return points_along(edges.edge(number), _SAMPLES)


def _made(boundary: Boundary) -> Made:
    making = BodyMaker(boundary).make()
    return [(body.kind, body.shape) for body in making.bodies]


class _PcurveBody:
    """A boundary whose edges are looked at and laid anew."""

    def __init__(self, boundary: Boundary) -> None:
        self.boundary = boundary
        self.edges = BoundaryEdges(boundary)
        maker = CurveMaker()
        self.surfaces: list[Geom_Surface] = [maker.surface(face.surface).surface for face in boundary.faces]

    def used(self) -> Iterator[int]:
        """Numbers of edges that faces use."""
        yield from self.edges.faces_of_edge

    def gap(self, number: int) -> float:
        """How far an edge lies off the surfaces of its faces at most, mm."""
        points = _points(self.edges, number)
        return max(
            float(np.linalg.norm(Foot(self.surfaces[face]).at(point)[0] - point))
            for face in self.edges.faces_of_edge[number]
            for point in points
        )

    def bounds(self, number: int, faces: Collection[int]) -> bool:
        """Whether an edge bounds one of some faces of the body it was made from."""
        return any(self.boundary.faces[f].source in faces for f in self.edges.faces_of_edge[number])

    def short_of_ends(self, number: int) -> float:
        """How far an edge ends from its vertices at most, mm."""
        edge, points = self.boundary.edges[number], _points(self.edges, number)
        return max(
            (
                float(np.linalg.norm(point - self.boundary.vertices[end].point))
                for point, end in ((points[0], edge.start), (points[-1], edge.end))
                if end is not None
            ),
            default=0.0,
        )

    def again(self, numbers: Collection[int]) -> Boundary:
        """The boundary with these edges, and those that end where they do, laid anew."""
        moved = self._moved(numbers)
        vertices = list(self.boundary.vertices)
        for place, point in moved.items():
            vertices[place] = Vertex((float(point[0]), float(point[1]), float(point[2])))
        edges = list(self.boundary.edges)
        laid: set[int] = set()
        for number in self.used():
            edge = edges[number]
            shifted = any(
                end is not None and end in moved and self._shift(end, moved) > _STILL
                for end in (edge.start, edge.end)
            )
            if number not in numbers and not shifted:
                continue
            curve = self._curve(number, vertices)
            if curve is not None:
                edges[number] = Edge(curve, edge.start, edge.end)
                laid.add(number)
        faces = tuple(
            replace(
                face,
                loops=tuple(
                    tuple(_bare(fin) if fin.edge in laid else fin for fin in loop) for loop in face.loops
                ),
            )
            for face in self.boundary.faces
        )
        return replace(self.boundary, vertices=tuple(vertices), edges=tuple(edges), faces=faces)

    def _shift(self, vertex: int, moved: dict[int, NDArray[np.float64]]) -> float:
        return float(np.linalg.norm(moved[vertex] - np.array(self.boundary.vertices[vertex].point)))

    def _moved(self, numbers: Collection[int]) -> dict[int, NDArray[np.float64]]:
        """Where the ends of some edges go: the point that all faces there have in common."""
        ends = {
            end
            for number in numbers
            for end in (self.boundary.edges[number].start, self.boundary.edges[number].end)
            if end is not None
        }
        faces: dict[int, set[int]] = {end: set() for end in ends}
        for number, around in self.edges.faces_of_edge.items():
            for end in (self.boundary.edges[number].start, self.boundary.edges[number].end):
                if end in faces:
                    faces[end].update(around)
        return {end: self._common(end, sorted(around)) for end, around in faces.items()}

    def _common(self, vertex: int, faces: list[int]) -> NDArray[np.float64]:
        feet = [Foot(self.surfaces[face]) for face in faces]
        x = np.array(self.boundary.vertices[vertex].point)
        for _ in range(_ROUNDS):
            rows, wanted = [], []
            for foot in feet:
                q, normal = foot.at(x)
                rows.append(normal)
                wanted.append(float(normal @ (q - x)))
            step, *_ = np.linalg.lstsq(np.array(rows), np.array(wanted), rcond=_TANGENT)
            x = x + step
            if np.linalg.norm(step) < 1e-11:
                break
        return x

    def _curve(self, number: int, vertices: list[Vertex]) -> Curve | None:
        """The curve in which the faces of an edge meet; None where they do so smoothly or not at all."""
        around = list(dict.fromkeys(self.edges.faces_of_edge[number]))
        if len(around) != 2:
            return None
        one, other = (self.surfaces[face] for face in around)
        points = _points(self.edges, number)
        middle = points[len(points) // 2]
        first, second = (Foot(surface).at(middle)[1] for surface in (one, other))
        if float(np.linalg.norm(np.cross(first, second))) < _TANGENT:
            return None
        edge = self.boundary.edges[number]
        is_ring = edge.start is None or edge.end is None
        try:
            chain = onto_both(one, other, points)
            if edge.start is not None and edge.end is not None:
                chain[0], chain[-1] = vertices[edge.start].point, vertices[edge.end].point
            made, off = intersection_curve(one, other, tuple(map(tuple, chain.tolist())), is_ring)
        except KernelRefused:
            return None  # they do not meet there; the edge stays where it is
        if off > _EXACT:
            return None
        return curve_of(made, made.FirstParameter(), made.LastParameter())
