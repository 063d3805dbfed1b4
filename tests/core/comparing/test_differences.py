"""Two made revisions: volumes of added and removed material in closed form, and what was moved."""

from __future__ import annotations

import math
from pathlib import Path

import pytest

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder, fuse
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.service.compare import compare_models
from tests.builders import shifted

pytestmark = pytest.mark.slow


def turned(degrees: float, x: float) -> tuple[float, ...]:
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return (c, -s, 0, x, s, c, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)


def model_of(store: BlobStore, prefix: str, plate, pin_at, *, with_cap: bool) -> Model:
    def part(key: str, name: str, shape) -> Product:
        body = Body(f"{prefix}b-{key}", BodyKind.SOLID, "", store.put(shape_to_blob(shape)))
        return Product(f"{prefix}{key}", key.upper(), name, bodies=(body,))

    parts = [part("plate", "Plate", plate), part("pin", "Pin", cylinder(6, 25))]
    uses = [("plate", shifted(0)), ("plate", shifted(0, 100)), ("pin", pin_at)]
    if with_cap:
        parts.append(part("cap", "Cap", block(7, 8, 9)))
        uses.append(("cap", shifted(300)))
    made = tuple(
        Occurrence(f"{prefix}o{n}", f"{prefix}{key}", f"{key} {n}", at) for n, (key, at) in enumerate(uses)
    )
    return Model((Product(f"{prefix}top", "T", "Top", occurrences=made), *parts), (f"{prefix}top",))


def test_material_and_places(store_folder: str) -> None:
    """The hole grows from 8 to 12 mm, a boss of 10 mm comes on top, the pin is moved and turned."""
    store = BlobStore(Path(store_folder))
    plain = block(60, 40, 10)
    before = model_of(store, "", cut(plain, cylinder(4, 30, at=(20, 20, -5))), shifted(200), with_cap=False)
    changed = fuse(cut(plain, cylinder(6, 30, at=(20, 20, -5))), cylinder(5, 15, at=(45, 20, 5)))
    after = model_of(store, "n-", changed, turned(30, 203.0), with_cap=True)
    differences = compare_models(before, after, store_folder).differences
    plate, cap = sorted(differences.materials, key=lambda c: c.name, reverse=True)
    radius = 12 / 2, 8 / 2
    assert plate.name == "Plate" and plate.places == 2
    removed = math.pi * (radius[0] ** 2 - radius[1] ** 2) * 10
    assert plate.removed_volume == pytest.approx(removed, rel=1e-6)
    assert plate.added_volume == pytest.approx(math.pi * 5**2 * 10, rel=1e-6)
    assert len(plate.added) == len(plate.removed) == 1
    assert cap.before == "" and cap.added_volume == pytest.approx(7 * 8 * 9, rel=1e-9)
    (pin,) = differences.moved
    assert pin.name == "pin 2" and pin.distance == pytest.approx(3.0, rel=1e-12)
    assert math.degrees(pin.angle) == pytest.approx(30.0, rel=1e-9)
    assert differences.refused == ()
    back = compare_models(after, before, store_folder).differences
    assert back.added == pytest.approx(differences.removed, rel=1e-6)
    assert back.removed == pytest.approx(differences.added, rel=1e-6)


def test_nothing_differs_from_itself(store_folder: str) -> None:
    store = BlobStore(Path(store_folder))
    plate = cut(block(60, 40, 10), cylinder(4, 30, at=(20, 20, -5)))
    one = model_of(store, "", plate, shifted(200), with_cap=False)
    other = model_of(store, "n-", plate, shifted(200), with_cap=False)
    compared = compare_models(one, other, store_folder)
    assert (compared.differences.materials, compared.differences.moved) == ((), ())
    assert compared.proof.verdict == "carried"
