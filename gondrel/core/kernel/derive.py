"""What is derived from a stored body and kept beside it under the same hash."""

from __future__ import annotations

import io
import json
import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.base.shape import compound_of, shape_from_blob, shape_to_blob
from gondrel.core.kernel.inspect.landmarks import landmarks_of_facets, landmarks_of_shape
from gondrel.core.kernel.inspect.seats import Seats, seats_of
from gondrel.core.kernel.measure.complexity import complexity_of_shape
from gondrel.core.kernel.measure.detail import describe
from gondrel.core.kernel.measure.deviation import Away, Deviation, away_from, measure_deviation
from gondrel.core.kernel.measure.holes import holes_of
from gondrel.core.kernel.measure.mass import diagonal_of, measure
from gondrel.core.kernel.measure.section import cut_facets, cut_shape
from gondrel.core.kernel.measure.spots import edge_spots, face_spots
from gondrel.core.kernel.measure.thickness import thinnest
from gondrel.core.kernel.measure.walls import walls_at_nodes
from gondrel.core.kernel.mesh.facets import describe_facets, mesh_of_facets
from gondrel.core.kernel.mesh.meshing import tessellated
from gondrel.core.kernel.mesh.triangulation import make_mesh
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.cutting import CutPlane
from gondrel.core.model.detail import BodyDetail, Complexity, field_kind
from gondrel.core.model.facets import Facets, distances_to, is_facets
from gondrel.core.model.landmarks import Landmarks
from gondrel.core.model.measures import BodySection, RoundHole, Thickness, section_kind
from gondrel.core.model.store import BlobStore

__all__ = [
    "chord_for",
    "complexity_of",
    "detail_of",
    "deviation_of",
    "edge_spots_of",
    "facts_of",
    "field_of",
    "holes_of_body",
    "keep_said",
    "landmarks_of",
    "mesh_of",
    "seats_of_body",
    "section_of",
    "spots_of",
    "thinnest_of",
    "walls_of",
]

CHORD_SHARE = 1 / 1500
"""Chord height of the picture as a share of the body's diagonal."""


def chord_for(shape: TopoDS_Shape) -> float:
    """Chord height in mm for the picture of a body: a share of its size within sensible bounds."""
    return max(diagonal_of(shape) * CHORD_SHARE, 1e-5)


def facts_of(store: BlobStore, key: str) -> BodyFacts:
    """The measures of a stored body, taken once.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when it can't be measured.
    """
    if store.has(key, "measures"):
        return from_plain(json.loads(store.get_as(key, "measures")), BodyFacts)
    blob = store.get(key)
    said = json.loads(store.get_as(key, "said")) if store.has(key, "said") else None
    facts = Facets.from_bytes(blob).facts() if is_facets(blob) else measure(shape_from_blob(blob), said)
    store.put_as(key, "measures", json.dumps(to_plain(facts)).encode())
    return facts


def keep_said(store: BlobStore, key: str, area: float | None, volume: float | None) -> None:
    """Keep what the records of a file say of a stored body, mm2 and mm3, for whoever measures it."""
    if area is not None and volume is not None and math.isfinite(area) and math.isfinite(volume):
        store.put_as(key, "said", json.dumps([area, volume]).encode())


def complexity_of(store: BlobStore, key: str) -> Complexity:
    """The complexity of a stored body, looked at once; of a mesh none.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    if not store.has(key, "complexity"):
        blob = store.get(key)
        found = Complexity(0, 0) if is_facets(blob) else complexity_of_shape(shape_from_blob(blob))
        store.put_as(key, "complexity", json.dumps([found.degree, found.shells]).encode())
    return Complexity(*json.loads(store.get_as(key, "complexity")))


def spots_of(store: BlobStore, key: str) -> NDArray[np.float64]:
    """Centroid and area of each face of a stored body, or of each group of a mesh, (n, 4), taken once.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    if not store.has(key, "spots"):
        blob = store.get(key)
        rows = (
            Facets.from_bytes(blob).group_spots() if is_facets(blob) else face_spots(shape_from_blob(blob))
        )
        store.put_as(key, "spots", rows.astype("<f8").tobytes())
    return np.frombuffer(store.get_as(key, "spots"), "<f8").reshape(-1, 4)


def edge_spots_of(store: BlobStore, key: str) -> NDArray[np.float64]:
    """Centroid and length of each edge of a stored body, (n, 4), taken once; of a mesh none.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    if not store.has(key, "edge-centres"):
        blob = store.get(key)
        rows = np.empty((0, 4)) if is_facets(blob) else edge_spots(shape_from_blob(blob))
        store.put_as(key, "edge-centres", rows.astype("<f8").tobytes())
    return np.frombuffer(store.get_as(key, "edge-centres"), "<f8").reshape(-1, 4)


def landmarks_of(store: BlobStore, key: str, *, keep: bool = True) -> Landmarks:
    """The points by which a stored body is known wherever it stands, taken once.

    Args:
        keep: whether they are kept beside the body; writing takes half as long as finding them.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    if store.has(key, "landmarks"):
        return Landmarks.from_bytes(store.get_as(key, "landmarks"))
    blob = store.get(key)
    is_mesh = is_facets(blob)
    made = (
        landmarks_of_facets(Facets.from_bytes(blob))
        if is_mesh
        else landmarks_of_shape(shape_from_blob(blob))
    )
    if keep:
        store.put_as(key, "landmarks", made.to_bytes())
    return made


def detail_of(store: BlobStore, key: str) -> BodyDetail:
    """Kinds and sizes of a stored body's faces and edges, taken once.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    if store.has(key, "detail"):
        return from_plain(json.loads(store.get_as(key, "detail")), BodyDetail)
    blob = store.get(key)
    detail = (
        describe_facets(Facets.from_bytes(blob)) if is_facets(blob) else describe(shape_from_blob(blob))
    )
    store.put_as(key, "detail", json.dumps(to_plain(detail)).encode())
    return detail


def mesh_of(store: BlobStore, key: str) -> None:
    """Make sure the mesh of a stored body is in the store.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when it can't be tessellated.
    """
    if store.has(key, "mesh"):
        return
    blob = store.get(key)
    if is_facets(blob):
        mesh = mesh_of_facets(Facets.from_bytes(blob))
    else:
        shape = shape_from_blob(blob)
        mesh = make_mesh(shape, chord=chord_for(shape))
    store.put_as(key, "mesh", mesh.to_bytes())


def deviation_of(store: BlobStore, one: str, other: str) -> Deviation:
    """The largest deviation between two stored bodies, either of which may be a mesh.

    Raises:
        KeyError: when a body is not in the store. KernelRefused: when the kernel fails over one.
    """
    blobs = store.get(one), store.get(other)
    if not any(is_facets(blob) for blob in blobs):
        kind = f"deviation-{other[:32]}"
        if store.has(one, kind):
            return from_plain(json.loads(store.get_as(one, kind)), Deviation)
        exact = measure_deviation(shape_from_blob(blobs[0]), shape_from_blob(blobs[1]))
        store.put_as(one, kind, json.dumps(to_plain(exact)).encode())
        return exact
    worst = Deviation(0.0, (0.0, 0.0, 0.0), 0)
    for here, there in (blobs, blobs[::-1]):
        points = _points_of(here)
        if is_facets(there):
            distances = distances_to(Facets.from_bytes(there), points)
        else:
            distances = away_from(shape_from_blob(there))(points).astype(np.float64)
        if len(distances) and distances.max() >= worst.value:
            x, y, z = (float(v) for v in points[int(distances.argmax())])
            worst = Deviation(float(distances.max()), (x, y, z), worst.samples + len(distances))
    return worst


_MOST_POINTS = 4000


def _points_of(blob: bytes) -> NDArray[np.float64]:
    """Corners and middles of the facets of a body, thinned evenly."""
    mesh = (
        Facets.from_bytes(blob)
        if is_facets(blob)
        else tessellated(shape_from_blob(blob), chord=0.0, angle=0.3)
    )
    points = np.concatenate([mesh.points, mesh.corners.mean(axis=1)])
    return np.asarray(points[:: max(1, len(points) // _MOST_POINTS)])


def field_of(store: BlobStore, key: str, others: Sequence[str]) -> None:
    """Make sure the deviation of a body's mesh nodes from other bodies is in the store: from the nearest.

    Raises:
        KeyError: when a body or the mesh is not in the store. KernelRefused: as away_from.
    """
    kind = field_kind(others)
    if store.has(key, kind):
        return
    away = _distance_from([store.get(other) for other in others])
    with np.load(io.BytesIO(store.get_as(key, "mesh"))) as mesh:
        points = mesh["points"].astype(np.float64)
        field = away(points)
        _look_inside(field, points, mesh["triangles"], mesh["face_starts"], float(mesh["chord"]), away)
    store.put_as(key, kind, field.astype(np.float32).tobytes())


def _distance_from(blobs: Sequence[bytes]) -> Away:
    """A function from points to their distance from the nearest of some bodies."""
    meshes = [Facets.from_bytes(blob) for blob in blobs if is_facets(blob)]
    shapes = [shape_from_blob(blob) for blob in blobs if not is_facets(blob)]
    whole = shapes[0] if len(shapes) == 1 else compound_of(shapes)
    from_shapes = away_from(whole) if shapes else None

    def away(points: NDArray[np.float64]) -> NDArray[np.float32]:
        distances = [distances_to(mesh, points).astype(np.float32) for mesh in meshes]
        if from_shapes is not None:
            distances.append(from_shapes(points))
        nearest: NDArray[np.float32] = np.min(distances, axis=0)
        return nearest

    return away


def _look_inside(
    field: NDArray[np.float32],
    points: NDArray[np.float64],
    triangles: NDArray[np.int32],
    starts: NDArray[np.int32],
    chord: float,
    away: Away,
) -> None:
    """Raise a field where a face lies off although its nodes do not, as one does that closes a rim.

    Of each face that seems to coincide the largest triangle is looked at in its middle; where that lies
    off by more than triangles lie off their surface, the whole face is.
    """
    corners = points[triangles]
    middles = corners.mean(axis=1)
    sizes = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    limit = _OFF_CHORD * chord
    runs = [(first, last) for first, last in pairwise(starts.tolist()) if last > first]
    largest = np.array([first + int(np.argmax(sizes[first:last])) for first, last in runs], np.int64)
    quiet = largest[field[triangles[largest]].max(axis=1) <= limit] if len(largest) else largest
    if not len(quiet):
        return
    off = quiet[away(middles[quiet]) > limit]
    owners = np.searchsorted(starts, off, "right") - 1
    for first, last in zip(starts[owners].tolist(), starts[owners + 1].tolist(), strict=True):
        inside = away(middles[first:last])
        inside[inside <= limit] = 0.0
        np.maximum.at(field, triangles[first:last], inside[:, None])


_OFF_CHORD = 1.5
"""Chord heights by which the middle of a triangle may lie off the surface it stands for."""


def section_of(store: BlobStore, key: str, plane: CutPlane, limits: Sequence[CutPlane] = ()) -> BodySection:
    """Where a plane cuts a stored body, in the body's frame, cut once; its faces are a body of the store.

    Args:
        limits: only what none of them takes away is cut.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    kind = section_kind(plane, limits)
    if store.has(key, kind):
        return from_plain(json.loads(store.get_as(key, kind)), BodySection)
    blob = store.get(key)
    if is_facets(blob):
        cut = cut_facets(Facets.from_bytes(blob), plane, limits)
    else:
        cut = cut_shape(shape_from_blob(blob), plane, limits)
    made = store.put(shape_to_blob(cut.shape)) if cut.shape is not None else ""
    section = BodySection(made, cut.area, cut.perimeter)
    store.put_as(key, kind, json.dumps(to_plain(section)).encode())
    return section


def holes_of_body(store: BlobStore, key: str) -> tuple[RoundHole, ...]:
    """The round holes of a stored body, in its frame, looked for once; of a mesh none.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    if not store.has(key, "holes"):
        blob = store.get(key)
        holes = [] if is_facets(blob) else holes_of(shape_from_blob(blob))
        store.put_as(key, "holes", json.dumps([to_plain(hole) for hole in holes]).encode())
    return tuple(from_plain(each, RoundHole) for each in json.loads(store.get_as(key, "holes")))


def thinnest_of(store: BlobStore, key: str) -> Thickness:
    """The thinnest place of a stored solid, looked for once; of a mesh nothing is measured.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    if not store.has(key, "thinnest"):
        blob = store.get(key)
        nowhere = ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))
        wall = Thickness(None, nowhere, 0) if is_facets(blob) else thinnest(shape_from_blob(blob))
        store.put_as(key, "thinnest", json.dumps(to_plain(wall)).encode())
    return from_plain(json.loads(store.get_as(key, "thinnest")), Thickness)


def seats_of_body(store: BlobStore, key: str) -> Seats:
    """The plane and cylinder faces of a stored body, looked for once; of a mesh none.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    if not store.has(key, "seats"):
        blob = store.get(key)
        none = Seats(np.empty((0, 3)), np.empty((0, 3)), np.empty(0), np.empty((0, 2, 3)))
        seats = none if is_facets(blob) else seats_of(shape_from_blob(blob))
        store.put_as(key, "seats", seats.to_bytes())
    return Seats.from_bytes(store.get_as(key, "seats"))


def walls_of(store: BlobStore, key: str) -> None:
    """Make sure the walls at the nodes of a solid's mesh are in the store, of kind "walls"; of a mesh body
    nothing is measured.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    if store.has(key, "walls"):
        return
    mesh_of(store, key)
    blob = store.get(key)
    with np.load(io.BytesIO(store.get_as(key, "mesh"))) as mesh:
        points = mesh["points"].astype(np.float64)
        if is_facets(blob):
            walls = np.full(len(points), np.nan, np.float32)
        else:
            walls = walls_at_nodes(shape_from_blob(blob), points, mesh["triangles"], mesh["face_starts"])
    store.put_as(key, "walls", walls.astype("<f4").tobytes())
