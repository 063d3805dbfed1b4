"""Edits of components: the place changes, the product and its other places do not."""

from __future__ import annotations

import pytest

from gondrel.core.arrange.components import (
    set_component_colour,
    set_component_datum,
    set_component_name,
    without_component_datum,
)
from gondrel.core.errors import UsageError
from gondrel.core.model import Model, Occurrence, Product, Rgba

RED = Rgba(1.0, 0.0, 0.0)


@pytest.fixture
def model() -> Model:
    uses = (Occurrence("o1", "pin", "Left"), Occurrence("o2", "pin", ""), Occurrence("o3", "pin", "Third"))
    return Model((Product("top", "T", "Top", occurrences=uses), Product("pin", "N", "Pin")), ("top",))


def test_one_place_is_named_and_coloured(model: Model) -> None:
    what, named = set_component_name(model, ["o1"], "  Upper ")
    assert what == "Set name of component Left to Upper"
    assert [u.name for u in named.product("top").occurrences] == ["Upper", "", "Third"]
    what, red = set_component_colour(named, ["o2"], RED)
    assert what.startswith("Set colour of component Pin to ")
    assert [u.colour for u in red.product("top").occurrences] == [None, RED, None]
    assert red.product("pin") is model.product("pin")


def test_several_places_change_at_once_and_go_back(model: Model) -> None:
    what, red = set_component_colour(model, ["o1", "o3"], RED)
    assert "2 components" in what
    assert [u.colour for u in red.product("top").occurrences] == [RED, None, RED]
    what, same = set_component_colour(red, ["o1", "o3"], None)
    assert same == model and "that of the part" in what


def test_properties_of_places(model: Model) -> None:
    """The part has none of them, other places neither; the same key is replaced."""
    what, changed = set_component_datum(model, ["o1", "o2"], " Position ", 12)
    assert what == "Set Position of 2 components to 12"
    _, changed = set_component_datum(changed, ["o1"], "Position", 13)
    told = [[(m.key, m.value) for m in u.metadata] for u in changed.product("top").occurrences]
    assert told == [[("Position", 13)], [("Position", 12)], []]
    assert changed.product("pin").metadata == ()
    what, gone = without_component_datum(changed, ["o1", "o2"], "Position")
    assert gone == model and what == "Remove Position of 2 components"
    with pytest.raises(UsageError, match="needs a name"):
        set_component_datum(model, ["o1"], "  ", 1)


def test_what_is_not_there_is_refused(model: Model) -> None:
    for ids in ((), ("gone",), ("pin",)):
        with pytest.raises(UsageError, match="no component"):
            set_component_name(model, ids, "x")
