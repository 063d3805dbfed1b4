"""Rows of the manifest."""

from __future__ import annotations

from dataclasses import replace

import pytest

from gondrel.core.model import Model, Occurrence, Product, Rgba
from gondrel.core.reports.figures import Figures
from gondrel.ui.presenters.rows import (
    Covering,
    build_flat,
    build_structure,
    build_where_used,
    cell_text,
    fitting,
    occurrences_of,
    products_of,
    same_drawn,
    sort_key,
)
from gondrel.ui.presenters.states import State
from tests.ui.presenters.models import facts, gate, many


def row_named(rows, label):
    for row in rows:
        if row.label == label:
            return row
        found = row_named(row.children, label)
        if found is not None:
            return found
    return None


def test_structure_gathers_equal_components() -> None:
    (top,) = build_structure(gate())
    assert [(r.label, r.quantity) for r in top.children] == [("Frame", 1), ("Pin", 2), ("Pin set", 1)]
    assert [r.label for r in top.children[2].children] == ["Pin"]


def test_flat_counts_the_whole() -> None:
    rows = {r.label: r.quantity for r in build_flat(gate())}
    assert rows == {"Gate": 1, "Frame": 1, "Pin": 3, "Pin set": 1}


def test_where_used_names_the_users() -> None:
    rows = {r.label: [(c.label, c.quantity) for c in r.children] for r in build_where_used(gate())}
    assert rows["Pin"] == [("Gate", 2), ("Pin set", 1)]


def test_double_names_are_told_apart_by_number_then_by_place() -> None:
    model = gate()
    twin = Product("twin", "G-9", "Pin")
    rows = build_flat(replace(model, products=(*model.products, twin)))
    assert {r.label for r in rows} >= {"Pin (G-3)", "Pin (G-9)"}
    same = Product("same", "G-3", "Pin")
    top = replace(model.product("top"), occurrences=(*model.product("top").occurrences,
                                                     Occurrence("o9", "same", "")))  # fmt: skip
    rows = build_flat(replace(model.with_product(top), products=(*model.with_product(top).products, same)))
    labels = [r.label for r in rows]
    assert len(set(labels)) == len(labels)
    assert any("in Gate" in label for label in labels)


@pytest.mark.parametrize(
    ("words", "found"),
    [
        ("pin", {"Pin", "Pin set"}),
        ("kind:assembly", {"Gate", "Pin set"}),
        ("kind:sol", {"Frame", "Pin"}),
        ("material:bronze", {"Pin"}),
        ("number:g-2", {"Frame"}),
        ("rev:a", {"Pin", "Pin set"}),
        ("layer:frame", {"Frame"}),
        ("pin -kind:assembly", {"Pin"}),
        ("lost", {"Frame"}),
        ("nothing like it", set()),
    ],
)
def test_filter_words_and_terms(words: str, found: set[str]) -> None:
    states = {"frame": State("lost", "colours"), "pin": State("carried", "carried")}
    rows = build_flat(gate())
    assert {r.label for r in rows if fitting(tuple(words.split()), states)(r)} == found


def test_rows_are_sorted_by_what_a_column_means() -> None:
    rows = build_flat(gate())
    known, show = {"blob-pin": facts(2000.0)}, Figures()
    states = {"pin": State("fault", "1 fault"), "frame": State("clean", "clean")}

    def order(column: str) -> list[str]:
        return [r.label for r in sorted(rows, key=lambda r: sort_key(r, column, known, show, states))]

    assert order("state")[:2] == ["Pin", "Frame"]
    assert order("item") == sorted((r.label for r in rows), key=str.lower)
    assert order("quantity")[0] == max(rows, key=lambda r: r.quantity).label
    assert order("material")[0] == "Pin"


def test_cells_show_what_the_product_has() -> None:
    (top,) = build_structure(gate())
    pin = row_named([top], "Pin")
    known, show = {"blob-pin": facts(2000.0)}, Figures()
    columns = "number revision quantity bodies material mass colour layer state".split()
    shown = {column: cell_text(pin, column, known, show) for column in columns}
    assert shown == {
        "number": "G-3", "revision": "A", "quantity": "2", "bodies": "1", "material": "Bronze CuSn8",
        "mass": "17.6 g", "colour": "#808080", "layer": "", "state": "",
    }  # fmt: skip
    assert cell_text(pin, "mass", {}, show) == ""


def test_rows_lead_to_their_products() -> None:
    model = gate()
    (top,) = build_structure(model)
    pin, inner = row_named([top], "Pin"), row_named([top], "Pin set").children[0]
    assert products_of(model, [pin.chain]) == ("pin",)
    assert products_of(model, [top.chain, pin.chain, inner.chain]) == ("top", "pin")
    assert products_of(model, [(frozenset({"product:frame"}),)]) == ("frame",)
    assert products_of(model, [(frozenset({"gone"}),)]) == ()
    assert set(occurrences_of(model, [pin.chain])) == set(pin.chain[-1])
    assert occurrences_of(model, [top.chain, (frozenset({"product:frame"}),), (frozenset({"gone"}),)]) == ()


def test_a_row_covers_what_is_placed_below_it() -> None:
    model = gate()
    (top,) = build_structure(model)
    inner = row_named([top], "Pin set")
    assert Covering((inner.chain,)).covers("pin", ("o5", "o4"), ("top", "set", "pin"))
    assert not Covering((inner.chain,)).covers("pin", ("o2",), ("top", "pin"))
    assert Covering([(frozenset({"product:set"}),)]).covers("pin", ("o5", "o4"), ("top", "set", "pin"))
    assert Covering([()]).covers("pin", ("o2",), ("top", "pin"))


def test_twenty_thousand_rows_are_built_and_filtered() -> None:
    model: Model = many(20_000)
    (top,) = build_structure(model)
    assert len(top.children) == 20_000
    assert sum(fitting(("part", "19999"), {})(row) for row in top.children) == 1


@pytest.mark.parametrize(
    ("changed", "expected"),
    [
        ({"name": "another name"}, True),
        ({"colour": Rgba(1.0, 0.0, 0.0)}, False),
        ({"own_colours": (("b-pin", -1, Rgba(1.0, 0.0, 0.0)),)}, False),
        ({"product": "frame"}, False),
        ({"placement": (1.0, 0, 0, 5.0, 0, 1.0, 0, 0, 0, 0, 1.0, 0, 0, 0, 0, 1.0)}, False),
    ],
)
def test_a_model_looks_the_same_where_uses_places_and_colours_are(
    changed: dict[str, object], expected: bool
) -> None:
    model = gate()
    top = model.product("top")
    uses = tuple(replace(use, **changed) if use.id == "o2" else use for use in top.occurrences)
    assert same_drawn(model, model.with_product(replace(top, occurrences=uses))) is expected
