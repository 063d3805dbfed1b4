"""One shape in one place, told in other records."""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.kernel.base.shape import moved_copy, shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.likeness.same_shape import is_same_shape
from gondrel.core.model.store import BlobStore


def shifted(x: float) -> tuple[float, ...]:
    return (1.0, 0, 0, x, 0, 1.0, 0, 0, 0, 0, 1.0, 0, 0, 0, 0, 1.0)


@pytest.mark.parametrize(
    "other, is_same",
    [
        (lambda: cut(block(40, 30, 8), cylinder(4, 20, at=(20, 15, -5))), True),
        (lambda: cut(block(40, 30, 8), cylinder(4, 12, at=(20, 15, -2))), True),  # made in another way
        (lambda: cut(block(40, 30, 8), cylinder(4.0001, 20, at=(20, 15, -5))), False),
        (lambda: cut(block(40, 30, 8), cylinder(4, 20, at=(20.001, 15, -5))), False),  # the same volume
        (lambda: moved_copy(cut(block(40, 30, 8), cylinder(4, 20, at=(20, 15, -5))), shifted(0.01)), False),
        (lambda: block(40, 30, 8), False),
    ],
)
def test_what_is_the_same_and_what_is_not(tmp_path: Path, other, is_same: bool) -> None:
    store = BlobStore(tmp_path)
    plate = store.put(shape_to_blob(cut(block(40, 30, 8), cylinder(4, 20, at=(20, 15, -5)))))
    assert is_same_shape(store, plate, store.put(shape_to_blob(other()))) is is_same
