"""Deviation of a mesh from bodies, by closed form: what coincides, what moved, what was added."""

from __future__ import annotations

import numpy as np
import pytest

from gondrel.core.kernel.base.shape import faces_of, shape_to_blob
from gondrel.core.kernel.derive import field_of, mesh_of
from gondrel.core.kernel.examples.broken import solid_of
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model.detail import field_kind
from gondrel.core.model.store import BlobStore


def field(store: BlobStore, one, *others) -> np.ndarray:
    keys = [store.put(shape_to_blob(shape)) for shape in (one, *others)]
    mesh_of(store, keys[0])
    field_of(store, keys[0], keys[1:])
    return np.frombuffer(store.get_as(keys[0], field_kind(keys[1:])), np.float32)


@pytest.fixture
def store(tmp_path) -> BlobStore:
    return BlobStore(tmp_path)


def test_the_same_body_lies_nowhere_off(store) -> None:
    plate = cut(block(40, 30, 10), cylinder(6, 30, at=(20, 15, -5)))
    assert field(store, plate, plate).max() < 1e-6


def test_a_body_moved_lies_off_by_as_much(store) -> None:
    found = field(store, block(10, 20, 30), block(10, 20, 30, at=(0, 0, 0.25)))
    assert found.max() == pytest.approx(0.25, abs=1e-6) and found.min() == pytest.approx(0.0, abs=1e-6)


def test_the_nearest_of_several_bodies_counts(store) -> None:
    """A block of two halves, compared with both and with one: its far end is 10 mm from the half."""
    whole, left, right = block(20, 20, 20), block(10, 20, 20), block(10, 20, 20, at=(10, 0, 0))
    assert field(store, whole, left, right).max() < 1e-6
    assert field(store, whole, left).max() == pytest.approx(10.0, abs=1e-3)
    assert field_kind(["a", "b"]) != field_kind(["a"]) != field_kind(["b"])


def test_a_face_that_closes_a_rim_is_told_though_its_corners_coincide(store) -> None:
    """A block against itself without its top: the middle of the top is 5 mm from the nearest side."""
    whole = block(10, 20, 30)
    open_one = solid_of([f for n, f in enumerate(faces_of(whole)) if n != _top(whole)])
    found = field(store, whole, open_one)
    assert found.max() > 2.0, "the closing face lies off"
    assert (found > 0).sum() == 4, "and only that one: its four nodes"
    assert field(store, open_one, whole).max() < 1e-6, "nothing of the open one is gone"


def _top(shape) -> int:
    from gondrel.core.kernel.inspect.inspection import inspect_shape

    body = inspect_shape(shape)
    return max(range(6), key=lambda n: body.middle_of(n)[2])


def test_arcs_do_not_lie_off_by_their_chords(store) -> None:
    """Triangles of a cylinder cut its arcs short; their middles are not taken for a deviation."""
    assert field(store, cylinder(50, 10), cylinder(50, 10)).max() < 1e-6
