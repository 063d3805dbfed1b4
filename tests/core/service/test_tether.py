"""Tethers: a changed source is told part by part and taken without losing what was arranged."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.arrange.insertion import with_model_added, with_model_inside, with_new_product
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.graft import apart_from
from gondrel.core.model.store import BlobStore
from gondrel.core.service.crossing import Source
from gondrel.core.service.receive import receive
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from gondrel.core.service.tether import changed_files, look_again, take_changes
from tests.builders import shifted, small_assembly

_AGAIN = settings_from({"force": "yes"})


def _changed(model: Model, store: BlobStore) -> Model:
    """One pin moved by 5 mm, the plate's hole widened from 12 to 14 mm, and a washer added."""
    wider = cut(block(60, 40, 10), cylinder(7, 30, at=(20, 20, -5)))
    washer = cut(cylinder(8, 2), cylinder(6.5, 10, at=(0, 0, -5)))
    plate = model.product("plate")
    bodies = (replace(plate.bodies[0], blob=store.put(shape_to_blob(wider))),)
    top = model.product("top")
    uses = [replace(o, placement=shifted(90, 25, 3)) if o.id == "o3" else o for o in top.occurrences]
    uses.append(Occurrence("o4", "washer", "washer", shifted(20, 20, 10)))
    body = Body("b-washer", BodyKind.SOLID, "Washer", store.put(shape_to_blob(washer)))
    added = Product("washer", "P-9", "Washer", "A", bodies=(body,))
    products = tuple(
        replace(p, bodies=bodies) if p.id == "plate"
        else replace(p, occurrences=tuple(uses)) if p.id == "top" else p
        for p in model.products
    )  # fmt: skip
    return replace(model, products=(*products, added))


@pytest.fixture
def tethered(tmp_path: Path, store_folder: str):
    store = BlobStore(Path(store_folder))
    original = small_assembly(store)
    path = tmp_path / "source.stp"
    send(original, str(path), "step-ap242", _AGAIN, store_folder)
    received = receive(str(path), store_folder)
    assert received.provenance is not None
    return original, path, received, Source(received.provenance, received), store


@pytest.mark.slow
def test_the_difference_says_exactly_what_changed(tethered, store_folder) -> None:
    original, path, _, source, store = tethered
    assert changed_files([source]) == {}
    send(_changed(original, store), str(path), "step-ap242", _AGAIN, store_folder)
    assert changed_files([source]) == {str(path): "changed"}
    difference = look_again(source, store_folder)
    told = {(c.kind, c.label) for c in difference.changes}
    assert told == {("moved", "pin right"), ("geometry", "Plate"), ("added", "Washer")}
    (moved,) = difference.of("moved")
    assert "moved by 5 mm (+0, +5, +0)" in moved.text
    (shape,) = difference.of("geometry")
    from math import pi

    lost = pi * (49 - 36) * 10
    assert f"{-lost:+,.3f}" in shape.text and "1 mm apart" in shape.text


@pytest.mark.slow
def test_taking_keeps_what_was_arranged(tethered, store_folder) -> None:
    original, path, received, source, store = tethered
    plate = next(p for p in received.products if p.name == "Plate")
    pin = next(p for p in received.products if p.name == "Pin")
    mended = store.put(shape_to_blob(block(60, 40, 11)))
    current = received.with_product(replace(pin, revision="Z", description="ours"))
    current = current.with_product(
        replace(plate, name="Base", bodies=(replace(plate.bodies[0], blob=mended),))
    )
    send(_changed(original, store), str(path), "step-ap242", _AGAIN, store_folder)
    difference = look_again(source, store_folder)
    model, now, told = take_changes(current, source, difference.new, store_folder)
    by_number = {p.number: p for p in model.products}
    assert by_number["P-3"].revision == "Z" and by_number["P-3"].description == "ours"
    assert by_number["P-2"].name == "Base" and "P-9" in by_number
    assert by_number["P-2"].bodies[0].blob not in (mended, plate.bodies[0].blob)
    assert [t for t in told if "mend it again" in t]
    top = next(p for p in model.products if p.name == "Top")
    assert sorted(o.placement[7] for o in top.occurrences) == [0.0, 20.0, 20.0, 25.0]
    assert changed_files([now]) == {}
    assert look_again(now, store_folder).changes == ()


@pytest.mark.slow
def test_a_part_removed_and_facts_changed(tethered, store_folder) -> None:
    original, path, received, source, _ = tethered
    top = original.product("top")
    kept = replace(top, revision="D", occurrences=tuple(o for o in top.occurrences if o.product != "pin"))
    products = tuple(kept if p.id == "top" else p for p in original.products if p.id != "pin")
    send(
        replace(original, products=products),
        str(path),
        "step-ap242",
        _AGAIN,
        store_folder,
    )
    difference = look_again(source, store_folder)
    assert {(c.kind, c.label) for c in difference.changes} == {("removed", "Pin"), ("metadata", "Top")}
    assert "revision 'C' to 'D'" in difference.of("metadata")[0].text
    model, _, _ = take_changes(received, source, difference.new, store_folder)
    assert {p.name for p in model.products} == {"Top", "Plate"}


def test_a_file_that_is_gone(tethered) -> None:
    _, path, _, source, _ = tethered
    path.unlink()
    assert changed_files([source]) == {str(path): "gone"}
    assert changed_files([replace(source, is_cut=True)]) == {}


def test_beside_and_into(tmp_path, store_folder) -> None:
    store = BlobStore(Path(store_folder))
    model = small_assembly(store)
    both = with_model_added(model, apart_from(model, model))
    assert len(both.products) == 6 and len({p.id for p in both.products}) == 6
    assert len({b.id for _, b in both.bodies()}) == 6

    house = with_new_product(Model(), "H-1", "Prepared")
    house = house.with_product(replace(house.products[0], revision="3"))
    filled = with_model_inside(house, house.roots[0], model)
    root = filled.product(filled.roots[0])
    assert (root.number, root.name, root.revision) == ("H-1", "Prepared", "3")
    assert len(root.occurrences) == 3 and len(root.bodies) == 1
    assert len(filled.products) == 3
