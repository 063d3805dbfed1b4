"""What is derived from a stored body and kept beside it under the same hash."""

from __future__ import annotations

import io
import json

import numpy as np
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.detail import describe
from gondrel.core.kernel.deviation import deviation_field
from gondrel.core.kernel.measure import diagonal_of, measure
from gondrel.core.kernel.mesh import make_mesh
from gondrel.core.kernel.shape import shape_from_blob
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.detail import BodyDetail, field_kind
from gondrel.core.model.store import BlobStore

__all__ = ["chord_for", "detail_of", "facts_of", "field_of", "mesh_of"]

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
    facts = measure(shape_from_blob(store.get(key)))
    store.put_as(key, "facts", json.dumps(to_plain(facts)).encode())
    return facts


def detail_of(store: BlobStore, key: str) -> BodyDetail:
    """Kinds and sizes of a stored body's faces and edges, taken once.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when the kernel fails over it.
    """
    if store.has(key, "detail"):
        return from_plain(json.loads(store.get_as(key, "detail")), BodyDetail)
    detail = describe(shape_from_blob(store.get(key)))
    store.put_as(key, "detail", json.dumps(to_plain(detail)).encode())
    return detail


def mesh_of(store: BlobStore, key: str) -> None:
    """Make sure the mesh of a stored body is in the store.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when it can't be tessellated.
    """
    if not store.has(key, "mesh"):
        shape = shape_from_blob(store.get(key))
        store.put_as(key, "mesh", make_mesh(shape, chord=chord_for(shape)).to_bytes())


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
    field = deviation_field(points, shape_from_blob(store.get(other)))
    store.put_as(key, kind, field.tobytes())
