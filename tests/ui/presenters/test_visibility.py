"""Isolating rows."""

from __future__ import annotations

from gondrel.ui.presenters.rows import Chain, Covering, build_structure
from gondrel.ui.presenters.visibility import isolated
from tests.ui.presenters.models import gate


def shown(hidden: set[Chain]) -> set[tuple[str, ...]]:
    model = gate()
    seen = set()
    owners: dict[tuple[str, ...], tuple[str, ...]] = {}
    for place in model.walk():
        owners[place.path] = (*owners.get(place.path[:-1], ()), place.product) if place.path else ("top",)
        bodies = model.product(place.product).bodies
        gone = Covering(hidden).covers(place.product, place.path, owners[place.path])
        if bodies and not gone:
            seen.add(place.path)
    return seen


def test_one_component_is_left() -> None:
    (top,) = build_structure(gate())
    pins = top.children[1]
    assert shown(isolated(gate(), [pins.chain])) == {("o2",), ("o3",)}


def test_an_assembly_keeps_what_is_in_it() -> None:
    (top,) = build_structure(gate())
    assert shown(isolated(gate(), [top.children[2].chain])) == {("o5", "o4")}


def test_a_product_is_kept_wherever_it_stands() -> None:
    chain = (frozenset({"product:pin"}),)
    assert shown(isolated(gate(), [chain])) == {("o2",), ("o3",), ("o5", "o4")}


def test_the_root_keeps_everything() -> None:
    assert isolated(gate(), [()]) == set()
