"""What is derived from a stored body and kept beside it under the same hash."""

from __future__ import annotations

import io
import json

import numpy as np
from numpy.typing import NDArray
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.detail import describe
from gondrel.core.kernel.deviation import Deviation, deviation_field, measure_deviation
from gondrel.core.kernel.facets import describe_facets, mesh_of_facets
from gondrel.core.kernel.measure import diagonal_of, measure
from gondrel.core.kernel.mesh import make_mesh
from gondrel.core.kernel.shape import shape_from_blob
from gondrel.core.kernel.tessellate import tessellated
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.detail import BodyDetail, field_kind
from gondrel.core.model.facets import Facets, distances_to, is_facets
from gondrel.core.model.store import BlobStore

__all__ = ["chord_for", "detail_of", "deviation_of", "facts_of", "field_of", "mesh_of"]

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
    if store.has(key, "facts"):
        return from_plain(json.loads(store.get_as(key, "facts")), BodyFacts)
    blob = store.get(key)
    facts = Facets.from_bytes(blob).facts() if is_facets(blob) else measure(shape_from_blob(blob))
    store.put_as(key, "facts", json.dumps(to_plain(facts)).encode())
    return facts


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
        return measure_deviation(shape_from_blob(blobs[0]), shape_from_blob(blobs[1]))
    worst = Deviation(0.0, (0.0, 0.0, 0.0), 0)
    for here, there in (blobs, blobs[::-1]):
        points = _points_of(here)
        if is_facets(there):
            found = distances_to(Facets.from_bytes(there), points)
        else:
            found = deviation_field(points, shape_from_blob(there)).astype(np.float64)
        if len(found) and found.max() >= worst.value:
            x, y, z = (float(v) for v in points[int(found.argmax())])
            worst = Deviation(float(found.max()), (x, y, z), worst.samples + len(found))
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


def field_of(store: BlobStore, key: str, other: str) -> None:
    """Make sure the deviation of a body's mesh nodes from another body is in the store.

    Raises:
        KeyError: when a body or the mesh is not in the store. KernelRefused: as deviation_field.
    """
    kind = field_kind(other)
    if store.has(key, kind):
        return
    with np.load(io.BytesIO(store.get_as(key, "mesh"))) as mesh:
        points = mesh["points"].astype(np.float64)
    blob = store.get(other)
    if is_facets(blob):
        field = distances_to(Facets.from_bytes(blob), points).astype(np.float32)
    else:
        field = deviation_field(points, shape_from_blob(blob))
    store.put_as(key, kind, field.tobytes())
