"""Settings of a receive on models made by hand: what is taken, what becomes of it, and what is told."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.arrange.intake import take_in
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.modelling.build import block, cylinder
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product, Rgba
from gondrel.core.model.product import Validation
from gondrel.core.model.receiving import AS_SENT, KINDS
from gondrel.core.model.store import BlobStore

RED = Rgba(1.0, 0.0, 0.0)


def at(x: float) -> tuple[float, ...]:
    return (1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)


@pytest.fixture
def store(tmp_path: Path) -> BlobStore:
    return BlobStore(tmp_path / "blobs")


@pytest.fixture
def model(store: BlobStore) -> Model:
    """A tray with a block and a sheet of its own, two pins, and a sketch of only a wire."""
    solid, round_ = store.put(shape_to_blob(block(10, 20, 30))), store.put(shape_to_blob(cylinder(5, 10)))
    tray = Product(
        "tray", "T-1", "Tray",
        bodies=(Body("b1", BodyKind.SOLID, "Base", solid, RED, ((0, RED),), ("BASE",)),
                Body("b2", BodyKind.SHEET, "Cover", solid, None, (), ("COVER", "ALL"))),
        occurrences=(Occurrence("o1", "pin", "left", at(0), RED), Occurrence("o2", "pin", "right", at(50)),
                     Occurrence("o3", "sketch", "sketch")),
        validation=Validation(6000.0, 2200.0, (5.0, 10.0, 15.0)),
    )  # fmt: skip
    pin = Product(
        "pin", "T-2", "Pin", bodies=(Body("b3", BodyKind.SOLID, "", round_, None, (), ("PINS",)),)
    )
    sketch = Product("sketch", "T-3", "Sketch", bodies=(Body("b4", BodyKind.WIRE, "", solid),))
    return Model((tray, pin, sketch), ("tray",))


def taken(model: Model, store: BlobStore, **settings) -> Model:
    return take_in(model, replace(AS_SENT, **settings), store)


def notes(model: Model) -> str:
    return "; ".join(note.text for note in model.notes if note.code == "taken-by-settings")


def test_as_sent_is_left_alone(model, store) -> None:
    assert take_in(model, AS_SENT, store) is model
    assert taken(model, store, search=("/somewhere",), join=0.1) is model


@pytest.mark.parametrize(
    ("without", "bodies", "products", "told"),
    [
        ("wires", {"b1", "b2", "b3"}, {"tray", "pin"}, "1 wires"),
        ("sheets", {"b1", "b3", "b4"}, {"tray", "pin", "sketch"}, "1 sheets"),
        ("solids", {"b2", "b4"}, {"tray", "sketch"}, "2 solids"),
    ],
)
def test_kinds_that_are_not_wanted_go_with_parts_that_hold_nothing_then(
    without, bodies, products, told, model, store
) -> None:
    left = taken(model, store, kinds=frozenset(KINDS) - {without})
    assert {b.id for _, b in left.bodies()} == bodies
    assert {p.id for p in left.products} == products
    assert {o.product for _, o in left.occurrences()} == products - {"tray"}
    assert told in notes(left)


def test_only_some_layers(model, store) -> None:
    """What is on no layer is always taken; one wanted layer of several is enough."""
    left = taken(model, store, layers=frozenset({"ALL"}))
    assert {b.id for _, b in left.bodies()} == {"b2", "b4"}
    assert "on layer BASE" in notes(left) and "on layer PINS" in notes(left)
    assert taken(model, store, layers=frozenset({"BASE", "COVER", "PINS"})).products == model.products


def test_no_colours(model, store) -> None:
    left = taken(model, store, colours=False)
    assert all(b.colour is None and not b.face_colours for _, b in left.bodies())
    assert all(o.colour is None for _, o in left.occurrences()) and "colours" in notes(left)


@pytest.mark.parametrize(
    ("settings", "factor"),
    [
        ({"scale": 2.0}, 2.0),
        ({"unit": "inch"}, 25.4),
        ({"unit": "mm"}, 1.0),
        ({"unit": "m", "scale": 0.5}, 500.0),
    ],
)
def test_size_of_bodies_places_and_said_figures(settings, factor, model, store) -> None:
    left = taken(model, store, **settings)
    pin, tray = left.product("pin"), left.product("tray")
    now, was = (facts_of(store, p.bodies[0].blob).volume for p in (pin, model.product("pin")))
    assert now == pytest.approx(was * factor**3)
    assert tray.occurrences[1].placement[3] == pytest.approx(50.0 * factor)
    assert tray.validation.volume == pytest.approx(6000.0 * factor**3)
    assert tray.validation.area == pytest.approx(2200.0 * factor**2)
    assert tray.validation.centroid[2] == pytest.approx(15.0 * factor)


def test_everything_in_one_part(model, store) -> None:
    left = taken(model, store, structure="flat")
    (whole,) = left.products
    assert (whole.id, whole.number, whole.occurrences) == ("tray", "T-1", ())
    assert len(whole.bodies) == 5 and {b.name for b in whole.bodies} >= {"Base", "Cover", "Pin", "Sketch"}
    boxes = sorted(facts_of(store, b.blob).bbox[0] for b in whole.bodies if b.name == "Pin")
    assert boxes == pytest.approx([-5.0, 45.0])
    assert "3 products" in notes(left)


def test_a_part_for_each_body(model, store) -> None:
    left = taken(model, store, loose="each")
    tray = left.product("tray")
    assert tray.bodies == () and tray.validation is None
    assert [o.name for o in tray.occurrences] == ["left", "right", "sketch", "Base", "Cover"]
    assert [p.name for p in left.products] == ["Tray", "Base", "Cover", "Pin", "Sketch"]
    assert "2 bodies became parts" in notes(left)
    assert taken(left, store, loose="each").products == left.products, "there is nothing more to take apart"


def test_names_by_number(model, store) -> None:
    assert [p.name for p in taken(model, store, names="number").products] == ["T-1", "T-2", "T-3"]
    bare = replace(model, products=(replace(model.products[0], number=""), *model.products[1:]))
    assert taken(bare, store, names="number").products[0].name == "Tray"


def test_several_settings_at_once_go_in_one_order(model, store) -> None:
    """Kinds before structure, size before both: a flat part without wires, twice as large."""
    left = taken(model, store, kinds=frozenset({"solids"}), structure="flat", scale=2.0, colours=False)
    (whole,) = left.products
    volumes = sorted(facts_of(store, b.blob).volume for b in whole.bodies)
    assert len(volumes) == 3 and volumes[-1] == pytest.approx(48_000.0)
    assert all(b.colour is None for b in whole.bodies)
