"""What is derived from a stored body and kept beside it under the same hash."""

from __future__ import annotations

import json

from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.measure import diagonal_of, measure
from gondrel.core.kernel.mesh import make_mesh
from gondrel.core.kernel.shape import shape_from_blob
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.store import BlobStore

__all__ = ["chord_for", "facts_of", "mesh_of"]

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


def mesh_of(store: BlobStore, key: str) -> None:
    """Make sure the mesh of a stored body is in the store.

    Raises:
        KeyError: when the body is not in the store. KernelRefused: when it can't be tessellated.
    """
    if not store.has(key, "mesh"):
        shape = shape_from_blob(store.get(key))
        store.put_as(key, "mesh", make_mesh(shape, chord=chord_for(shape)).to_bytes())
