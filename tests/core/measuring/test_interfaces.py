"""Faces that others touch and that moved, on a wheel whose bore and width change."""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import cut, cylinder
from gondrel.core.measuring.interfaces import moved_interfaces
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore


def wheel(bore: float, width: float = 20.0, rim: float = 30.0):
    return cut(cylinder(rim, width), cylinder(bore, 100, at=(0, 0, -10)))


@pytest.fixture
def store(store_folder: str) -> BlobStore:
    return BlobStore(Path(store_folder))


def on_shaft(store: BlobStore) -> Model:
    """A wheel on a shaft, and a disc against its far side; another disc stands away from it."""

    def part(key: str, shape) -> Product:
        body = Body(f"{key}-b", BodyKind.SOLID, key, store.put(shape_to_blob(shape)))
        return Product(key, key, key, bodies=(body,))

    parts = (part("wheel", wheel(8)), part("shaft", cylinder(8, 60, at=(0, 0, -20))),
             part("disc", cut(cylinder(15, 5, at=(0, 0, 20)), cylinder(8, 9, at=(0, 0, 18)))),
             part("far", cylinder(5, 5, at=(0, 0, 200))))  # fmt: skip
    uses = tuple(Occurrence(f"u-{p.id}", p.id, p.id) for p in parts)
    return Model(products=(Product("top", "T", "Top", occurrences=uses), *parts), roots=("top",))


@pytest.mark.parametrize(("new", "touched"), [
    (wheel(8), {}),
    (wheel(9), {"cylinder": ("disc", "shaft"), "plane": ("disc", "shaft")}),
    (wheel(8, width=22), {"cylinder": ("disc", "shaft"), "plane": ("disc", "shaft")}),
    (wheel(8, rim=31), {"plane": ("disc", "shaft")}),
])  # fmt: skip
def test_what_others_touch_and_what_moved(store, new, touched) -> None:
    body = Body("n", BodyKind.SOLID, "wheel", store.put(shape_to_blob(new)))
    found = moved_interfaces(on_shaft(store), "wheel", (body,), store)
    assert all("far" not in face.touched_by for face in found)
    for face in found:
        assert set(face.touched_by) <= set(touched[face.kind])
    assert {face.kind for face in found} == set(touched)
    for face in found:
        if face.kind == "cylinder":
            assert face.what == "\u2300 16 mm" and "shaft" in str(face)
