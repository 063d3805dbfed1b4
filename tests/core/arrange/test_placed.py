"""Bodies in their places, without structure."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gondrel.core.arrange.placed import place_bodies
from gondrel.core.model.body import Witness
from gondrel.core.model.store import BlobStore
from tests.builders import rich_assembly


def test_what_the_records_say_goes_with_a_placed_body(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = rich_assembly(store)
    pin = model.product("pin")
    (body,) = pin.bodies
    doubted = replace(body, witness=Witness(body.blob, 1.0, 2.0, agrees=False))
    model = model.with_product(replace(pin, bodies=(doubted,)))
    flat = place_bodies(model, store).model
    placed = [b for p, b in flat.bodies() if p.number == "P-3"]
    assert len(placed) == 2 and len({b.blob for b in placed}) == 2
    assert all(b.heard is not None and not b.heard.agrees for b in placed)


def test_reference_geometry_goes_with_its_part(tmp_path) -> None:
    store = BlobStore(tmp_path)
    model = rich_assembly(store)
    top = model.product("top")
    uses = tuple(
        replace(u, placement=(1, 0, 0, 100, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1))
        if u.product == "plate"
        else u
        for u in top.occurrences
    )
    flat = place_bodies(model.with_product(replace(top, occurrences=uses)), store).model
    plate = next(p for p in flat.products if p.number == "P-2")
    system = next(r for r in plate.references if r.name == "CS")
    assert np.allclose(np.reshape(system.placement, (4, 4))[:3, 3], (105, 6, 7))
