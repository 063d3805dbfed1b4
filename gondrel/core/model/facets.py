"""A mesh body: triangles as plain arrays, with what can be said of them without any kernel."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.body import BodyFacts
from gondrel.core.model.product import Placement
from gondrel.core.work.late import late

__all__ = ["Facets", "MeshFlaw", "distances_to", "encloses", "is_facets", "parted", "skins", "welded"]

_sparse = late("scipy.sparse")
_csgraph = late("scipy.sparse.csgraph")
_spatial = late("scipy.spatial")

Floats = NDArray[np.float64]
Ints = NDArray[np.int32]

_MAGIC = b"GONDREL-FACETS-1\n"
_CREASE = np.cos(np.radians(30.0))


@dataclass(frozen=True, slots=True)
class MeshFlaw:
    """One thing that keeps a mesh from bounding a solid: what, how often, and where first, mm."""

    what: str
    count: int
    at: tuple[float, float, float]

    def __str__(self) -> str:
        where = ", ".join(f"{v:.3f}" for v in self.at)
        return f"{self.count} {self.what} (first near {where} mm)"


@dataclass(frozen=True)
class Facets:
    """Triangles of one body.

    Args:
        points: (n, 3) float64, mm, each place once; triangles: (m, 3) int32 into points, anticlockwise
            seen from outside; groups: (m,) int32, the face each triangle belongs to.
    """

    points: Floats
    triangles: Ints
    groups: Ints

    def to_bytes(self) -> bytes:
        """The mesh as a blob."""
        stream = io.BytesIO()
        np.savez(stream, points=self.points, triangles=self.triangles, groups=self.groups)
        return _MAGIC + stream.getvalue()

    @classmethod
    def from_bytes(cls, blob: bytes) -> Facets:
        """The mesh again. Raises ValueError when the bytes hold none."""
        if not is_facets(blob):
            raise ValueError("not a mesh body")
        with np.load(io.BytesIO(blob[len(_MAGIC) :])) as arrays:
            return cls(arrays["points"], arrays["triangles"], arrays["groups"])

    @cached_property
    def corners(self) -> Floats:
        """(m, 3, 3) float64: the corners of each triangle, mm."""
        return self.points[self.triangles]

    @cached_property
    def _crossed(self) -> Floats:
        a, b, c = self.corners[:, 0], self.corners[:, 1], self.corners[:, 2]
        return np.cross(b - a, c - a)

    @cached_property
    def areas(self) -> Floats:
        """(m,) float64: area of each triangle, mm2."""
        return np.asarray(np.linalg.norm(self._crossed, axis=1) / 2)

    @cached_property
    def normals(self) -> Floats:
        """(m, 3) float64: unit normals, zero where a triangle has no area."""
        lengths = np.maximum(2 * self.areas, 1e-300)[:, None]
        return np.asarray(self._crossed / lengths)

    @cached_property
    def volume(self) -> float:
        """Enclosed volume, mm3, by the divergence theorem; only of meaning when closed."""
        origin = self.points.mean(axis=0) if len(self.points) else np.zeros(3)
        a = self.corners[:, 0] - origin
        return float(np.einsum("ij,ij->", a, self._crossed)) / 6

    def edges(self) -> tuple[Ints, NDArray[np.int64], NDArray[np.int64]]:
        """Undirected edges (e, 2), and for each of the 3 m directed edges its edge and its direction.

        Directed edge 3 t + k leads from corner k of triangle t to the next; direction is 1 from the
        lower to the higher point, else -1.
        """
        directed = np.stack([self.triangles, np.roll(self.triangles, -1, axis=1)], axis=2).reshape(-1, 2)
        low, high = directed.min(axis=1), directed.max(axis=1)
        keys = low.astype(np.int64) * len(self.points) + high
        unique, which = np.unique(keys, return_inverse=True)
        pairs = np.stack([unique // len(self.points), unique % len(self.points)], axis=1).astype(np.int32)
        return pairs, which, np.where(directed[:, 0] == low, 1, -1)

    def flaws(self) -> list[MeshFlaw]:
        """What keeps it from bounding a solid; empty for a closed, consistently turned mesh."""
        if not len(self.triangles):
            return [MeshFlaw("triangles at all are missing", 0, (0.0, 0.0, 0.0))]
        pairs, which, direction = self.edges()
        uses = np.bincount(which, minlength=len(pairs))
        balance = np.bincount(which, weights=direction, minlength=len(pairs))
        flaws = []
        for what, bad in (
            ("open edges", uses == 1),
            ("edges between facets turned against each other", (uses == 2) & (balance != 0)),
            ("edges with more than two facets", uses > 2),
        ):
            if bad.any():
                first = pairs[int(np.flatnonzero(bad)[0])]
                flaws.append(MeshFlaw(what, int(bad.sum()), _place(self.points[first].mean(axis=0))))
        if not flaws and self.volume < 0:
            flaws.append(MeshFlaw("skins turned inside out", 1, _place(self.points[0])))
        return flaws

    def pieces(self) -> NDArray[np.int32]:
        """(m,) int32: which connected piece each triangle belongs to."""
        count = len(self.points)
        a, b, c = self.triangles.T
        rows, columns = np.concatenate([a, b]), np.concatenate([b, c])
        graph = _sparse.coo_matrix((np.ones(len(rows), np.int8), (rows, columns)), shape=(count, count))
        _, label = _csgraph.connected_components(graph, directed=False)
        return np.asarray(label[a], np.int32)

    def only(self, chosen: NDArray[np.bool_]) -> Facets:
        """The chosen triangles (m,) bool and the points they use."""
        used, local = np.unique(self.triangles[chosen], return_inverse=True)
        return Facets(self.points[used], local.reshape(-1, 3).astype(np.int32), self.groups[chosen])

    def moved(self, placement: Placement) -> Facets:
        """A copy moved, mirrored or scaled; triangles are turned where the placement mirrors."""
        matrix = np.asarray(placement, float).reshape(4, 4)
        points = self.points @ matrix[:3, :3].T + matrix[:3, 3]
        triangles = self.triangles
        if np.linalg.det(matrix[:3, :3]) < 0:
            triangles = triangles[:, ::-1].copy()
        return Facets(points, triangles, self.groups)

    @classmethod
    def joined(cls, parts: Sequence[Facets]) -> Facets:
        """Several meshes as one; their points are not welded."""
        offsets = np.cumsum([0, *(len(p.points) for p in parts)])
        groups = np.cumsum([0, *(int(p.groups.max(initial=-1)) + 1 for p in parts)])
        return cls(
            np.concatenate([p.points for p in parts]) if parts else np.zeros((0, 3)),
            np.concatenate([p.triangles + o for p, o in zip(parts, offsets, strict=False)]).astype(np.int32)
            if parts else np.zeros((0, 3), np.int32),
            np.concatenate([p.groups + g for p, g in zip(parts, groups, strict=False)]).astype(np.int32)
            if parts else np.zeros(0, np.int32),
        )  # fmt: skip

    def facts(self) -> BodyFacts:
        """Measures, exact for the facets; volume and inertia only where the mesh is closed."""
        closed = not self.flaws()
        area = float(self.areas.sum())
        middles = self.corners.mean(axis=1)
        if closed:
            volume, centroid, inertia = _solid_moments(self)
        else:
            volume = 0.0
            centroid = (middles * self.areas[:, None]).sum(axis=0) / max(area, 1e-300)
            inertia = _shell_inertia(middles - centroid, self.areas)
        pairs, _, _ = self.edges()
        lengths = np.linalg.norm(self.points[pairs[:, 0]] - self.points[pairs[:, 1]], axis=1)
        low = self.points.min(axis=0) if len(self.points) else np.zeros(3)
        high = self.points.max(axis=0) if len(self.points) else np.zeros(3)
        principal = np.asarray(np.linalg.eigvalsh(inertia), np.float64)
        return BodyFacts(
            volume=volume, area=area, centroid=_place(centroid),
            inertia=_place(principal), inertia_matrix=tuple(float(v) for v in inertia.ravel()),
            bbox=(*_place(low), *_place(high)), faces=len(self.triangles), edges=len(pairs),
            vertices=len(self.points), surfaces=(("facet", len(self.triangles)),), tolerance=0.0,
            length=float(lengths.sum()),
        )  # fmt: skip

    def group_spots(self) -> Floats:
        """Centroid, mm, and area, mm2, of the triangles of each group, (groups, 4)."""
        count = int(self.groups.max()) + 1 if len(self.groups) else 0
        areas = np.bincount(self.groups, self.areas, count)
        middles = self.points[self.triangles].mean(axis=1) * self.areas[:, None]
        sums = np.stack([np.bincount(self.groups, middles[:, axis], count) for axis in range(3)], axis=1)
        return np.column_stack([sums / np.maximum(areas, 1e-300)[:, None], areas])

    @property
    def enclosed(self) -> float:
        """Volume inside, mm3, where the triangles close; summed as cones over the middle of the corners.

        Source: divergence theorem.
        """
        corners = self.points[self.triangles] - self.points.mean(axis=0)
        return float(np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6)

    @property
    def middle(self) -> Floats:
        """The centroid of the skin, (3,) mm."""
        middles = self.points[self.triangles].mean(axis=1)
        return np.asarray(
            (middles * self.areas[:, None]).sum(axis=0) / max(float(self.areas.sum()), 1e-300)
        )

    def creases(self) -> Ints:
        """(k, 2) int32: edges to be drawn: open ones, and those where the surface bends by 30 degrees."""
        pairs, which, _ = self.edges()
        uses = np.bincount(which, minlength=len(pairs))
        triangle = np.repeat(np.arange(len(self.triangles)), 3)
        total = np.zeros((len(pairs), 3))
        np.add.at(total, which, self.normals[triangle])
        # For two unit normals |a + b|^2 = 2 + 2 a.b.
        cosine = (total**2).sum(axis=1) / 2 - 1
        return np.asarray(pairs[(uses != 2) | (cosine < _CREASE)])


def is_facets(blob: bytes) -> bool:
    """Whether a stored body is a mesh."""
    return blob.startswith(_MAGIC)


def welded(corners: Floats, tolerance: float, groups: Ints | None = None) -> Facets:
    """Triangles that share corners within a tolerance; those that shrink to nothing are dropped.

    Args:
        corners: (m, 3, 3) float64, mm; tolerance: mm, 0 for exactly equal corners.
    """
    flat = corners.reshape(-1, 3)
    unique, which = np.unique(flat + 0.0, axis=0, return_inverse=True)
    which = which.ravel()
    if tolerance > 0 and len(unique):
        near = _spatial.cKDTree(unique).query_pairs(tolerance, output_type="ndarray")
        if len(near):
            count = len(unique)
            graph = _sparse.coo_matrix((np.ones(len(near), np.int8), near.T), shape=(count, count))
            _, label = _csgraph.connected_components(graph, directed=False)
            _, first = np.unique(label, return_index=True)
            unique, which = unique[first], label[which]
    triangles = which.reshape(-1, 3).astype(np.int32)
    groups = np.zeros(len(triangles), np.int32) if groups is None else groups
    a, b, c = triangles.T
    kept = (a != b) & (b != c) & (c != a)
    return Facets(unique, triangles[kept], groups[kept])


def parted(mesh: Facets) -> Facets:
    """The mesh with bodies that only touch taken apart, where that leaves each of them closed.

    Files of bare triangles say the same corner again and again, so bodies that stand on each other
    would grow together when corners are welded. Where more than two facets share an edge, those that
    stand nearest in the file are taken to belong together.
    """
    pairs, which, direction = mesh.edges()
    uses = np.bincount(which, minlength=len(pairs))
    if not (uses > 2).any():
        return mesh
    # In each edge, the facets that run along it and those that run against it, in file order.
    along, against = (np.flatnonzero(direction == way) for way in (1, -1))
    forth, back = (chosen[np.argsort(which[chosen], kind="stable")] for chosen in (along, against))
    if len(forth) != len(back) or (which[forth] != which[back]).any():
        return mesh
    one, other = forth // 3, back // 3
    count = len(mesh.triangles)
    graph = _sparse.coo_matrix((np.ones(len(one), np.int8), (one, other)), shape=(count, count))
    pieces, label = _csgraph.connected_components(graph, directed=False)
    if pieces == 1:
        return mesh
    keys = label[:, None].astype(np.int64) * len(mesh.points) + mesh.triangles
    used, local = np.unique(keys, return_inverse=True)
    apart = Facets(mesh.points[used % len(mesh.points)], local.reshape(-1, 3).astype(np.int32), mesh.groups)
    return mesh if apart.flaws() else apart


def encloses(mesh: Facets, point: Floats) -> bool:
    """Whether a point lies within a closed mesh: the solid angles of its facets add up to a whole.

    Source: solid angle of a triangle after Van Oosterom and Strackee, IEEE Trans. Biomed. Eng. 30 (1983).
    """
    a, b, c = (mesh.corners[:, k] - point for k in range(3))
    la, lb, lc = (np.linalg.norm(v, axis=1) for v in (a, b, c))
    above = np.einsum("ij,ij->i", a, np.cross(b, c))
    below = (
        la * lb * lc
        + np.einsum("ij,ij->i", a, b) * lc
        + np.einsum("ij,ij->i", b, c) * la
        + np.einsum("ij,ij->i", c, a) * lb
    )
    return bool(abs(2 * np.arctan2(above, below).sum()) > 2 * np.pi)


_MOST_SHELLS = 2000


def skins(mesh: Facets) -> list[Facets]:
    """The bodies of a mesh: each outer skin with the cavities within it.

    A mesh with flaws, with an inverted skin outside all others or with over 2000 skins stays whole.
    """
    label = mesh.pieces()
    count = int(label.max(initial=-1)) + 1
    kinds = np.unique(label)
    if len(kinds) < 2 or len(kinds) > _MOST_SHELLS or count == 0 or mesh.flaws():
        return [mesh]
    parts = [mesh.only(label == kind) for kind in kinds]
    outer = [part for part in parts if part.volume > 0]
    groups = [[part] for part in outer]
    for part in parts:
        if part.volume > 0:
            continue
        around = [i for i, skin in enumerate(outer) if encloses(skin, part.points[0])]
        if not around:
            return [mesh]
        groups[min(around, key=lambda i: outer[i].volume)].append(part)
    return [Facets.joined(group) if len(group) > 1 else group[0] for group in groups]


def _place(values: Floats) -> tuple[float, float, float]:
    x, y, z = (float(v) for v in values)
    return (x, y, z)


def _solid_moments(mesh: Facets) -> tuple[float, Floats, Floats]:
    """Volume, centroid and inertia matrix about it of a closed mesh.

    Source: sums over the tetrahedra between each facet and a point, each by its exact integrals
    (second moments of a tetrahedron: V/20 (sum of corner products + product of corner sums)).
    """
    origin = mesh.points.mean(axis=0)
    a, b, c = (mesh.corners[:, k] - origin for k in range(3))
    volumes = np.einsum("ij,ij->i", a, np.cross(b, c)) / 6
    volume = float(volumes.sum())
    centre = ((a + b + c) * volumes[:, None]).sum(axis=0) / 4 / (volume or 1e-300)
    total = a + b + c
    products = sum(np.einsum("i,ij,ik->jk", volumes, v, v) for v in (a, b, c, total)) / 20
    products = products - volume * np.outer(centre, centre)
    inertia = np.trace(products) * np.eye(3) - products
    return volume, centre + origin, inertia


def _shell_inertia(middles: Floats, areas: Floats) -> Floats:
    products = np.einsum("i,ij,ik->jk", areas, middles, middles)
    return np.asarray(np.trace(products) * np.eye(3) - products)


def distances_to(mesh: Facets, points: Floats) -> Floats:
    """Distance of each point (n, 3) to the nearest facet, mm, exact.

    Facets are taken in classes of like size; in each class only those can be nearest whose middle
    lies within the distance to the nearest corner and the largest reach of the class.
    """
    if not len(mesh.triangles):
        return np.full(len(points), np.inf)
    corners = mesh.corners
    middles = corners.mean(axis=1)
    reach = np.linalg.norm(corners - middles[:, None], axis=2).max(axis=1)
    best, _ = _spatial.cKDTree(mesh.points).query(points)
    classes = np.floor(np.log2(np.maximum(reach, 1e-12))).astype(int)
    for each in np.unique(classes):
        members = np.flatnonzero(classes == each)
        tree = _spatial.cKDTree(middles[members])
        widest = float(reach[members].max())
        for place, neighbours in enumerate(tree.query_ball_point(points, best + widest)):
            if neighbours:
                near = corners[members[neighbours]]
                best[place] = min(best[place], float(_to_triangles(points[place], near).min()))
    return np.asarray(best)


def _to_triangles(point: Floats, corners: Floats) -> Floats:
    """Distance of a point to each of some triangles (k, 3, 3)."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    normal = np.cross(b - a, c - a)
    square = np.maximum(np.einsum("ij,ij->i", normal, normal), 1e-300)
    inside = np.ones(len(a), bool)
    sides = np.full(len(a), np.inf)
    for start, end in ((a, b), (b, c), (c, a)):
        along = end - start
        to = point - start
        inside &= np.einsum("ij,ij->i", np.cross(along, to), normal) >= 0
        share = np.einsum("ij,ij->i", to, along) / np.maximum(np.einsum("ij,ij->i", along, along), 1e-300)
        nearest = start + np.clip(share, 0, 1)[:, None] * along
        sides = np.minimum(sides, np.linalg.norm(point - nearest, axis=1))
    above = np.abs(np.einsum("ij,ij->i", point - a, normal)) / np.sqrt(square)
    return np.where(inside, above, sides)
