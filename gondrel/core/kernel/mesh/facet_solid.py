"""A closed mesh as a solid: facets in one plane become one face, rings of facets a cylinder.

Nothing is guessed: facets are merged when they lie in one plane within a tolerance, and a ring
becomes a cylinder only when every corner lies on it, its ends are plane faces square to the axis, and
its facets turn evenly. What cannot be merged stays a face of its own.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.mesh.facet_regions import flattened, neighbours, plane_regions
from gondrel.core.model.boundary import Boundary, Edge, Face, Fin, Loop, Vertex
from gondrel.core.model.facets import Facets, encloses
from gondrel.core.model.geometry import Circle, Cylinder, Line, Plane, vector_of

__all__ = ["MOST_FACES", "Solidified", "solid_boundary"]

Floats = NDArray[np.float64]

MOST_FACES = 60_000
"""Faces a solid is made with at most; with more of them no modeller would be of use."""

_NOISE = 2.4e-7
"""How far single-precision coordinates may be off, as a share of the largest."""

_LEAST_RING = 8
_EVEN = 0.02
"""How much the facets of a cylinder may differ in the angle they turn by, as a share."""


@dataclass(frozen=True, slots=True)
class Solidified:
    """What becomes of a mesh.

    Args:
        boundary: the solid; facets: how many triangles there were; deviation: how far the faces lie
            off the facets, mm; cylinders: how many were recognised.
    """

    boundary: Boundary
    facets: int
    deviation: float
    cylinders: int


def solid_boundary(mesh: Facets, *, tolerance: float = 0.0, shaped: bool = False) -> Solidified:
    """The solid that a closed mesh bounds.

    Args:
        tolerance: how far facets may lie off a face they are merged into, mm, at least what single
            precision leaves open.
        shaped: whether to look for cylinders too.

    Raises:
        KernelRefused: when it is not closed, turned against itself, or has too many faces, with where.
    """
    flaws = mesh.flaws()
    if flaws:
        raise KernelRefused(f"the mesh bounds no solid: {'; '.join(map(str, flaws))}")
    tolerance = max(tolerance, _NOISE * float(np.abs(mesh.points).max()))
    mesh, regions, moved = flattened(mesh, plane_regions(mesh, tolerance))
    count = int(regions.max()) + 1
    if count > MOST_FACES:
        raise KernelRefused(
            f"the solid would have {count:,} faces, {MOST_FACES:,} are the most that are made",
            hint="send it as a mesh, or have it meshed more coarsely",
        )
    return _Maker(mesh, regions, tolerance, shaped, moved).make()


@dataclass(slots=True)
class _Ring:
    """Regions that make up a whole cylinder, and the loops of points at its two ends."""

    regions: tuple[int, ...]
    axis: Floats
    centre: Floats
    radius: float
    ends: tuple[frozenset[int], frozenset[int]]
    outward: bool
    sag: float


class _Maker:
    """Makes the boundary of one mesh."""

    def __init__(
        self, mesh: Facets, regions: NDArray[np.int32], tolerance: float, shaped: bool, moved: float
    ) -> None:
        self.mesh = mesh
        self.regions = regions
        self.tolerance = tolerance
        self.count = int(regions.max()) + 1
        self.normals, self.origins = self._planes()
        self.deviation = moved
        self.vertices: list[Vertex] = []
        self.edges: list[Edge] = []
        self.faces: list[Face] = []
        self.vertex_of: dict[int, int] = {}
        self.edge_of: dict[tuple[int, ...], int] = {}
        self.loops = self._loops()
        self.corners = self._real_corners()
        self.rings = self._rings() if shaped else []

    def _planes(self) -> tuple[Floats, Floats]:
        """The plane of each region: unit normal, and its foot point seen from the middle of the region."""
        mesh = self.mesh
        sums, middles, weight = np.zeros((self.count, 3)), np.zeros((self.count, 3)), np.zeros(self.count)
        np.add.at(sums, self.regions, mesh.normals * mesh.areas[:, None])
        np.add.at(middles, self.regions, mesh.corners.mean(axis=1) * mesh.areas[:, None])
        np.add.at(weight, self.regions, mesh.areas)
        # The largest facet's plane is exact; a mean of many is rounded.
        largest = np.zeros(self.count, int)
        for triangle in np.argsort(mesh.areas, kind="stable"):
            largest[self.regions[triangle]] = triangle
        normals = mesh.normals[largest]
        return normals, mesh.corners[largest, 0]

    def _loops(self) -> list[list[list[int]]]:
        """For each region its loops of points, material to the left."""
        mesh = self.mesh
        pairs = neighbours(mesh)
        _, which, _ = mesh.edges()
        border = self.regions[pairs[:, 0]] != self.regions[pairs[:, 1]]
        starts: list[dict[int, list[int]]] = [defaultdict(list) for _ in range(self.count)]
        for directed in np.flatnonzero(border[which]):
            triangle, corner = divmod(int(directed), 3)
            a = int(mesh.triangles[triangle, corner])
            b = int(mesh.triangles[triangle, (corner + 1) % 3])
            starts[self.regions[triangle]][a].append(b)
        return [self._chained(region, following) for region, following in enumerate(starts)]

    def _chained(self, region: int, following: dict[int, list[int]]) -> list[list[int]]:
        loops = []
        while following:
            first = next(iter(following))
            at, loop = first, []
            before: int | None = None
            while True:
                ways = following[at]
                way = ways[0] if len(ways) == 1 or before is None else self._turn(region, before, at, ways)
                ways.remove(way)
                if not ways:
                    del following[at]
                loop.append(at)
                before, at = at, way
                if at == first:
                    break
            loops.append(loop)
        return loops

    def _turn(self, region: int, before: int, at: int, ways: list[int]) -> int:
        """Where loops touch at a point, the way that turns furthest to the left keeps them apart."""
        points, normal = self.mesh.points, self.normals[region]
        come = points[at] - points[before]

        def turn(way: int) -> float:
            go = points[way] - points[at]
            angle = np.arctan2(float(np.dot(np.cross(come, go), normal)), float(np.dot(come, go)))
            return float(angle)

        return max(ways, key=turn)

    def _real_corners(self) -> set[int]:
        """Points that more than two regions meet at, or where a border between two bends."""
        meeting: dict[int, set[int]] = defaultdict(set)
        bends: set[int] = set()
        points = self.mesh.points
        for region, loops in enumerate(self.loops):
            for loop in loops:
                for before, at, after in zip(loop[-1:] + loop[:-1], loop, loop[1:] + loop[:1], strict=True):
                    meeting[at].add(region)
                    one, other = points[at] - points[before], points[after] - points[at]
                    across = np.linalg.norm(np.cross(one, other))
                    # How far the point stands off the straight line past it.
                    if across > self.tolerance * np.linalg.norm(one + other) or np.dot(one, other) < 0:
                        bends.add(at)
        return bends | {at for at, regions in meeting.items() if len(regions) > 2}

    # --- cylinders -------------------------------------------------------------------------

    def _rings(self) -> list[_Ring]:
        strips: dict[int, tuple[int, ...]] = {}
        for region, loops in enumerate(self.loops):
            if len(loops) == 1:
                corners_kept = tuple(at for at in loops[0] if at in self.corners)
                if len(corners_kept) == 4:
                    strips[region] = corners_kept
        sides: dict[frozenset[int], list[int]] = defaultdict(list)
        for region, corners in strips.items():
            for one, other in zip(corners, (*corners[1:], corners[0]), strict=True):
                sides[frozenset((one, other))].append(region)
        linked: dict[int, list[tuple[int, frozenset[int]]]] = defaultdict(list)
        for side, regions in sides.items():
            if len(regions) == 2:
                linked[regions[0]].append((regions[1], side))
                linked[regions[1]].append((regions[0], side))
        rings: list[_Ring] = []
        used: set[int] = set()
        for region in strips:
            if region in used:
                continue
            chain = self._ring_from(region, linked)
            ring = self._certain(chain) if chain else None
            if ring is not None and not used & set(ring.regions):
                rings.append(ring)
                used |= set(ring.regions)
        return rings

    def _ring_from(
        self, start: int, linked: dict[int, list[tuple[int, frozenset[int]]]]
    ) -> list[tuple[int, frozenset[int]]]:
        """Strips from one to the next over opposite sides, back to the first; empty when open."""
        for second, side in linked[start]:
            chain, at, entered = [(start, side)], second, side
            while at != start:
                onward = [(n, s) for n, s in linked[at] if not s & entered]
                if len(onward) != 1 or len(chain) > len(linked):
                    chain = []
                    break
                chain.append((at, onward[0][1]))
                at, entered = onward[0]
            if len(chain) >= _LEAST_RING:
                return chain
        return []

    def _certain(self, chain: list[tuple[int, frozenset[int]]]) -> _Ring | None:
        """The cylinder of a chain of strips, None unless every test of it holds."""
        points = self.mesh.points
        sides = [tuple(side) for _, side in chain]
        directions = np.array([points[b] - points[a] for a, b in sides])
        lengths = np.linalg.norm(directions, axis=1)
        if lengths.min() < 10 * self.tolerance:
            return None
        axis = directions[0] / lengths[0]
        directions *= np.sign(directions @ axis)[:, None]
        if np.abs(directions - directions[0]).max() > self.tolerance:
            return None
        low = [a if np.dot(points[a] - points[b], axis) < 0 else b for a, b in sides]
        high = [b if a == one else a for (a, b), one in zip(sides, low, strict=True)]
        foot = points[low]
        flat = foot - np.outer(foot @ axis, axis)
        centre, radius = _circle(flat, axis)
        if radius <= 0 or np.abs(np.linalg.norm(flat - centre, axis=1) - radius).max() > self.tolerance:
            return None
        if np.ptp(foot @ axis) > self.tolerance or np.ptp(points[high] @ axis) > self.tolerance:
            return None
        spokes = (flat - centre) / radius
        steps = np.arccos(np.clip(np.einsum("ij,ij->i", spokes, np.roll(spokes, -1, axis=0)), -1, 1))
        if abs(steps.sum() - 2 * np.pi) > 1e-6 or np.ptp(steps) > _EVEN * steps.mean() + 1e-9:
            return None
        regions = tuple(region for region, _ in chain)
        ends = frozenset(low), frozenset(high)
        if not all(self._is_an_end(end, axis) for end in ends):
            return None
        outward = bool(
            np.dot(self.normals[regions[0]], points[low[0]] - centre - axis * (foot[0] @ axis)) > 0
        )
        sag = radius * (1 - np.cos(steps.max() / 2))
        height = float(np.mean(foot @ axis))
        return _Ring(regions, axis, centre + axis * height, radius, ends, outward, float(sag))

    def _is_an_end(self, end: frozenset[int], axis: Floats) -> bool:
        """Whether the points are one whole loop of a plane face square to the axis."""
        for region, loops in enumerate(self.loops):
            for loop in loops:
                if end == frozenset(at for at in loop if at in self.corners) and len(loop) >= len(end):
                    square = abs(abs(float(np.dot(self.normals[region], axis))) - 1) < 1e-9
                    if square and len(loops) >= 1:
                        return True
        return False

    # --- the boundary ----------------------------------------------------------------------

    def make(self) -> Solidified:
        """All faces, and the shells they make up."""
        round_of = {region: ring for ring in self.rings for region in ring.regions}
        end_of = {end: (ring, place) for ring in self.rings for place, end in enumerate(ring.ends)}
        face_of: dict[int, int] = {}
        for region in range(self.count):
            if region in round_of:
                continue
            loops = tuple(self._loop(region, loop, end_of) for loop in self.loops[region])
            face_of[region] = len(self.faces)
            self.faces.append(Face(self._plane(region), True, loops))
        for ring in self.rings:
            face_of.update(dict.fromkeys(ring.regions, len(self.faces)))
            self.faces.append(self._cylinder(ring))
            self.deviation = max(self.deviation, ring.sag)
        regions = self._shells(face_of)
        boundary = Boundary(
            "solid", tuple(self.vertices), tuple(self.edges), tuple(self.faces), regions=regions
        )
        return Solidified(boundary, len(self.mesh.triangles), self.deviation, len(self.rings))

    def _plane(self, region: int) -> Plane:
        normal, point = self.normals[region], self.origins[region]
        members = self.mesh.corners[self.regions == region] if self.count < 5000 else None
        if members is not None:
            self.deviation = max(self.deviation, float(np.abs((members - point) @ normal).max(initial=0.0)))
        return Plane(vector_of(point), vector_of(normal), vector_of(_across(normal)))

    def _loop(self, region: int, loop: list[int], end_of: dict[frozenset[int], tuple[_Ring, int]]) -> Loop:
        corners = [at for at in loop if at in self.corners]
        ring = end_of.get(frozenset(corners))
        if ring is not None:
            return (Fin(self._circle(*ring), self._is_with(ring[0], region)),)
        if len(corners) < 2:
            corners = loop
        fins = []
        for one, other in zip(corners, [*corners[1:], corners[0]], strict=True):
            key = (min(one, other), max(one, other), *self._between(loop, one, other))
            if key not in self.edge_of:
                self.edge_of[key] = len(self.edges)
                a, b = self.mesh.points[key[0]], self.mesh.points[key[1]]
                line = Line(vector_of(a), vector_of((b - a) / np.linalg.norm(b - a)))
                self.edges.append(Edge(line, self._vertex(key[0]), self._vertex(key[1])))
            fins.append(Fin(self.edge_of[key], one < other))
        return tuple(fins)

    def _between(self, loop: list[int], one: int, other: int) -> tuple[int, ...]:
        """The lowest of the points passed between two corners: it tells two borders of one pair apart."""
        at, passed = loop.index(one), list[int]()
        while loop[(at + 1) % len(loop)] != other and len(passed) < len(loop):
            at = (at + 1) % len(loop)
            passed.append(loop[at])
        return (min(passed),) if passed else ()

    def _vertex(self, point: int) -> int:
        if point not in self.vertex_of:
            self.vertex_of[point] = len(self.vertices)
            self.vertices.append(Vertex(vector_of(self.mesh.points[point])))
        return self.vertex_of[point]

    def _circle(self, ring: _Ring, place: int) -> int:
        key = (-1, *ring.regions[:1], place)
        if key not in self.edge_of:
            points = self.mesh.points[list(ring.ends[place])]
            centre = ring.centre + ring.axis * float(np.mean((points - ring.centre) @ ring.axis))
            self.edge_of[key] = len(self.edges)
            circle = Circle(
                vector_of(centre), vector_of(ring.axis), vector_of(_across(ring.axis)), ring.radius
            )
            self.edges.append(Edge(circle))
        return self.edge_of[key]

    def _is_with(self, ring: _Ring, region: int) -> bool:
        """Whether a plane end face lies to the left of the circle that runs about the axis."""
        faces_up = float(np.dot(self.normals[region], ring.axis)) > 0
        return faces_up == ring.outward

    def _cylinder(self, ring: _Ring) -> Face:
        surface = Cylinder(
            vector_of(ring.centre), vector_of(ring.axis), vector_of(_across(ring.axis)), ring.radius
        )
        # Seen from outside with the axis up, the lower circle runs with the face, the upper against it.
        loops = tuple((Fin(self._circle(ring, place), (place == 0) == ring.outward),) for place in (0, 1))
        return Face(surface, ring.outward, loops)

    def _shells(self, face_of: dict[int, int]) -> tuple[tuple[tuple[int, ...], ...], ...]:
        """Faces by connected skins, each cavity with the skin right around it."""
        pieces = self.mesh.pieces()
        skins: dict[int, dict[int, None]] = defaultdict(dict)
        for region, piece in dict.fromkeys(zip(self.regions.tolist(), pieces.tolist(), strict=True)):
            skins[piece][face_of[region]] = None
        meshes = {piece: self.mesh.only(pieces == piece) for piece in skins}
        outer = [p for p, m in meshes.items() if m.volume > 0]
        skins_of = {piece: [tuple(skins[piece])] for piece in outer}
        for piece, mesh in meshes.items():
            if piece in skins_of:
                continue
            around = [p for p in outer if encloses(meshes[p], mesh.points[0])]
            if not around:
                raise KernelRefused("a skin of the mesh is inside out")
            skins_of[min(around, key=lambda p: meshes[p].volume)].append(tuple(skins[piece]))
        return tuple(tuple(shells) for shells in skins_of.values())


def _circle(flat: Floats, axis: Floats) -> tuple[Floats, float]:
    """Centre and radius of the circle nearest to points of a plane square to an axis (least squares)."""
    x = _across(axis)
    y = np.cross(axis, x)
    u, v = flat @ x, flat @ y
    system = np.stack([2 * u, 2 * v, np.ones(len(u))], axis=1)
    (cu, cv, rest), *_ = np.linalg.lstsq(system, u**2 + v**2, rcond=None)
    return cu * x + cv * y, float(np.sqrt(max(rest + cu**2 + cv**2, 0.0)))


def _across(direction: Floats) -> Floats:
    """A unit vector square to another."""
    other = np.eye(3)[int(np.argmin(np.abs(direction)))]
    across = np.cross(direction, other)
    return np.asarray(across / np.linalg.norm(across))
