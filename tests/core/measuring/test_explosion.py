"""How a bolted joint, a shaft with a key and a plain stack come apart; nothing of the model moves."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder, fuse
from gondrel.core.measuring.explosion import explosion_of
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.boxes import box_in_place
from gondrel.core.model.explosion import shifts_of
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all
from tests.builders import shifted

pytestmark = pytest.mark.slow


def model_of(store: BlobStore, shapes, uses) -> Model:
    parts = [
        Product(
            name, "", name, bodies=(Body(f"b-{name}", BodyKind.SOLID, "", store.put(shape_to_blob(shape))),)
        )
        for name, shape in shapes.items()
    ]
    made = tuple(Occurrence(key, part, key, at) for key, part, at in uses)
    return Model((Product("top", "", "Top", occurrences=made), *parts), ("top",))


def joint(store: BlobStore) -> Model:
    """Two plates, a screw through both from above, a nut below."""
    plate = cut(block(60, 40, 10), cylinder(4.2, 30, at=(30, 20, -5)))
    screw = fuse(cylinder(4, 40, at=(0, 0, -40)), cylinder(7, 5))
    nut = cut(cylinder(8, 6), cylinder(4, 20, at=(0, 0, -5)))
    return model_of(
        store, {"plate": plate, "screw": screw, "nut": nut},
        [("lower", "plate", shifted(0)), ("upper", "plate", shifted(0, 0, 10)),
         ("screw", "screw", shifted(30, 20, 20)), ("nut", "nut", shifted(30, 20, -6))],
    )  # fmt: skip


def apart(store_folder: str, model: Model):
    facts = measure_all(model.blobs(), store_folder)
    return explosion_of(model, BlobStore(Path(store_folder)), facts), facts


def test_a_bolted_joint(store_folder: str) -> None:
    model = joint(BlobStore(Path(store_folder)))
    explosion, facts = apart(store_folder, model)
    leaves = explosion.leaves
    assert len(leaves) == 3, "one part stays"
    for key in ("screw", "nut"):
        if key in leaves:
            assert np.abs(leaves[key].way) == pytest.approx([0, 0, 1], abs=1e-9)
    assert leaves["nut"].way[2] < 0 and "axis" in leaves["nut"].why
    if "screw" in leaves:
        assert leaves["screw"].way[2] > 0
    shifts = shifts_of(model, explosion, 1.0, 1, {})
    boxes = {}
    for place in model.walk():
        for body in model.product(place.product).bodies:
            boxes[place.path] = box_in_place(facts[body.blob], place.placement) + np.array(
                shifts.get(place.path, (0, 0, 0))
            )
    placed = list(boxes.values())
    for n, one in enumerate(placed):
        for other in placed[n + 1 :]:
            assert not ((one[0] < other[1] - 1e-6) & (other[0] < one[1] - 1e-6)).all(), "they are apart"


def test_a_pin_leaves_a_blind_hole_only_one_way(store_folder: str) -> None:
    store = BlobStore(Path(store_folder))
    housing = cut(block(40, 40, 40), cylinder(5, 25, at=(20, 20, 15)))
    model = model_of(
        store, {"housing": housing, "pin": cylinder(5, 30)},
        [("housing", "housing", shifted(0)), ("pin", "pin", shifted(20, 20, 15))],
    )  # fmt: skip
    explosion, _ = apart(store_folder, model)
    (leave,) = explosion.leaves.values()
    pin = explosion.leaves.get("pin")
    assert leave.way == pytest.approx((0, 0, 1 if pin else -1), abs=1e-9)
    assert "along the axis it shares with" in leave.why and "bar" not in leave.why


def test_spread_level_and_what_is_drawn_out(store_folder: str) -> None:
    model = joint(BlobStore(Path(store_folder)))
    explosion, _ = apart(store_folder, model)
    key = "nut"
    full, half = (shifts_of(model, explosion, spread, 1, {})[(key,)] for spread in (1.0, 0.5))
    assert np.array(half) * 2 == pytest.approx(np.array(full))
    assert shifts_of(model, explosion, 0.0, 1, {}) == {}
    drawn = shifts_of(model, explosion, 0.0, 1, {(key,): 12.0})
    assert np.linalg.norm(drawn[(key,)]) == pytest.approx(12.0)
    nested = Model(
        (Product("all", "", "All", occurrences=(Occurrence("x", "top", "", shifted(5)),)), *model.products),
        ("all",),
    )
    deep, _ = apart(store_folder, nested)
    assert deep.depth == 2 and ("x", key) not in shifts_of(nested, deep, 1.0, 1, {})
    assert ("x", key) in shifts_of(nested, deep, 1.0, 2, {})
