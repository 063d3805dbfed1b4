"""The forecast, item by item, without the kernel."""

from __future__ import annotations

from gondrel.core.carriage.forecast import make_forecast
from gondrel.core.carriage.inventory import inventory
from gondrel.core.model import Metadatum, Model, Occurrence, Product, Rgba
from gondrel.core.model.carries import THINGS, Carries
from tests.ui.presenters.models import gate

ALL = Carries(frozenset(THINGS), (), frozenset(("text", "integer", "real", "boolean")), True, True)


def forecast(model: Model, carries: Carries = ALL, unit: str = "mm"):
    return make_forecast(model, carries, title="Target", unit=unit)


def fates(made) -> dict[tuple[str, str], str]:
    return {(e.item.subject, e.item.aspect): e.fate for e in made.entries if e.fate != "carried"}


def test_every_item_of_the_model_has_its_fate() -> None:
    made = forecast(gate())
    assert {e.item.key for e in made.entries} == set(inventory(gate()))
    assert fates(made) == {}


def test_what_a_target_has_no_place_for_is_lost_with_the_reason() -> None:
    held = frozenset(("bodies", "geometry", "units"))
    carries = Carries(held, (("names", "no names"),))
    made = forecast(gate(), carries)
    lost = [e for e in made.entries if e.fate == "lost"]
    assert {e.item.thing for e in lost} == set(THINGS) - held - {"validation", "remainder"}
    assert {e.why for e in lost if e.item.thing == "names"} == {"no names"}
    assert made.fate("bodies") == "carried"
    assert made.fate("validation") == ""


def test_another_unit_alters_the_unit_and_nothing_else() -> None:
    assert fates(forecast(gate(), unit="inch")) == {("", "length unit"): "altered"}


def test_metadata_of_a_kind_the_target_lacks_is_altered_one_by_one() -> None:
    data = (Metadatum("Checked", True), Metadatum("Count", 3), Metadatum("Checked", False))
    model = Model((Product("p", "N", "Part", metadata=data),), ("p",))
    carries = Carries(ALL.things, (), frozenset(("text", "integer")), True, True)
    assert fates(forecast(model, carries)) == {
        ("p", "Checked#1"): "altered",
        ("p", "Checked#2"): "altered",
    }


def test_metadata_and_colours_of_occurrences() -> None:
    part = Product("p", "N", "Frame", occurrences=(Occurrence("i", "q", ""),))
    use = Occurrence("o", "p", "", colour=Rgba(1, 0, 0), metadata=(Metadatum("Place", "12"),))
    model = Model((Product("t", "", "Top", occurrences=(use,)), part, Product("q", "", "Pin")), ("t",))
    carries = Carries(ALL.things, (), ALL.metadata_kinds)
    assert fates(forecast(model, carries)) == {
        ("o", "Place#1"): "lost",
    }
    assert fates(forecast(model)) == {}


def test_groups_gather_equal_fates_with_equal_reasons() -> None:
    carries = Carries(ALL.things - {"layers", "materials"}, (("layers", "no layers"),))
    groups = [
        (thing, why, len(items))
        for thing, fate, why, items in forecast(gate(), carries).groups()
        if fate == "lost"
    ]
    assert groups == [("layers", "no layers", 1), ("materials", "", 1)]
