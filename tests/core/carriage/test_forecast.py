"""The forecast, item by item, without the kernel."""

from __future__ import annotations

from gondrel.core.carriage.forecast import make_forecast
from gondrel.core.carriage.inventory import THINGS, inventory
from gondrel.core.carriage.target import TargetTraits
from gondrel.core.model import Metadatum, Model, Occurrence, Product, Rgba
from tests.ui.presenters.models import gate

ALL = TargetTraits(
    "All", "mm", frozenset(THINGS), (), frozenset(("text", "integer", "real", "boolean")), True, True
)


def fates(forecast) -> dict[tuple[str, str], str]:
    return {(e.item.subject, e.item.aspect): e.fate for e in forecast.entries if e.fate != "carried"}


def test_every_item_of_the_model_has_its_fate() -> None:
    forecast = make_forecast(gate(), ALL)
    assert {e.item.key for e in forecast.entries} == set(inventory(gate()))
    assert fates(forecast) == {}


def test_what_a_target_has_no_place_for_is_lost_with_the_reason() -> None:
    held = frozenset(("bodies", "geometry", "units"))
    traits = TargetTraits("Bare", "mm", held, (("names", "no names"),))
    forecast = make_forecast(gate(), traits)
    lost = [e for e in forecast.entries if e.fate == "lost"]
    assert {e.item.thing for e in lost} == set(THINGS) - held - {"validation"}
    assert {e.why for e in lost if e.item.thing == "names"} == {"no names"}
    assert forecast.fate("bodies") == "carried"
    assert forecast.fate("validation") == ""


def test_another_unit_alters_the_unit_and_nothing_else() -> None:
    traits = TargetTraits("Inch", "inch", ALL.things, (), ALL.metadata_kinds, True, True)
    assert fates(make_forecast(gate(), traits)) == {("", "length unit"): "altered"}


def test_metadata_of_a_kind_the_target_lacks_is_altered_one_by_one() -> None:
    data = (Metadatum("Checked", True), Metadatum("Count", 3), Metadatum("Checked", False))
    model = Model((Product("p", "N", "Part", metadata=data),), ("p",))
    traits = TargetTraits("Text", "mm", ALL.things, (), frozenset(("text", "integer")), True, True)
    assert fates(make_forecast(model, traits)) == {
        ("p", "Checked#1"): "altered",
        ("p", "Checked#2"): "altered",
    }


def test_metadata_and_colours_of_occurrences() -> None:
    part = Product("p", "N", "Frame", occurrences=(Occurrence("i", "q", ""),))
    use = Occurrence("o", "p", "", colour=Rgba(1, 0, 0), metadata=(Metadatum("Place", "12"),))
    model = Model((Product("t", "", "Top", occurrences=(use,)), part, Product("q", "", "Pin")), ("t",))
    traits = TargetTraits("Plain", "mm", ALL.things, (), ALL.metadata_kinds)
    assert fates(make_forecast(model, traits)) == {
        ("o", "occurrence colour"): "lost",
        ("o", "Place#1"): "lost",
    }
    assert fates(make_forecast(model, ALL)) == {}


def test_groups_gather_equal_fates_with_equal_reasons() -> None:
    traits = TargetTraits("Plain", "mm", ALL.things - {"layers", "materials"}, (("layers", "no layers"),))
    groups = [
        (thing, why, len(items))
        for thing, fate, why, items in make_forecast(gate(), traits).groups()
        if fate == "lost"
    ]
    assert groups == [("layers", "no layers", 1), ("materials", "", 1)]
