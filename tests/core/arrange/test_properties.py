"""Edits of properties."""

from __future__ import annotations

import pytest

from gondrel.core.arrange.properties import (
    parse_value,
    set_colour,
    set_material,
    set_metadata,
    set_text,
    without_metadatum,
)
from gondrel.core.errors import UsageError
from gondrel.core.model import Body, BodyKind, Metadatum, Model, Product, Rgba

RED = Rgba(1.0, 0.0, 0.0)


@pytest.fixture
def model() -> Model:
    body = Body("b", BodyKind.SOLID, "", "blob", None, ((0, RED),))
    part = Product("p", "N-1", "Pin", "A", metadata=(Metadatum("Finish", "raw"),), bodies=(body,))
    return Model((part, Product("q", "N-2", "Frame")), ("q",))


@pytest.mark.parametrize("field", ["number", "name", "revision", "description"])
def test_a_text_field_changes_and_the_old_model_stays(model: Model, field: str) -> None:
    what, changed = set_text(model, ["p"], field, "  new ")
    assert getattr(changed.product("p"), field) == "new"
    assert getattr(model.product("p"), field) != "new"
    assert field in what
    assert "Pin" in what
    assert changed.product("q") is model.product("q")


def test_several_products_change_at_once_and_the_history_says_so(model: Model) -> None:
    what, changed = set_text(model, ["p", "q", "p"], "revision", "C")
    assert [p.revision for p in changed.products] == ["C", "C"]
    assert "several items" in what


def test_unknown_fields_and_empty_selections_are_refused(model: Model) -> None:
    with pytest.raises(UsageError, match="no field"):
        set_text(model, ["p"], "weight", "3")
    with pytest.raises(UsageError, match="nothing is selected"):
        set_text(model, [], "name", "x")
    with pytest.raises(UsageError, match="nothing is selected"):
        set_text(model, ["gone"], "name", "x")


def test_material_is_set_kept_and_taken_away(model: Model) -> None:
    _, steel = set_material(model, ["p"], "Steel", 7850.0)
    material = steel.product("p").material
    assert material is not None
    assert (material.name, material.density) == ("Steel", 7850.0)
    assert set_material(steel, ["p"], " ", None)[1].product("p").material is None
    with pytest.raises(UsageError, match="density"):
        set_material(model, ["p"], "Steel", -1.0)


def test_colour_goes_to_bodies_and_face_colours_stay_unless_dropped(model: Model) -> None:
    blue = Rgba(0.0, 0.0, 1.0, 0.5)
    what, changed = set_colour(model, ["p", "q"], blue)
    (body,) = changed.product("p").bodies
    assert body.colour == blue
    assert body.face_colours == ((0, RED),)
    assert "50 % transparent" in what
    (bare,) = set_colour(model, ["p"], None, faces=True)[1].product("p").bodies
    assert bare.colour is None
    assert bare.face_colours == ()
    with pytest.raises(UsageError, match="assembly"):
        set_colour(model, ["q"], blue)


def test_metadata_is_added_replaced_and_removed(model: Model) -> None:
    _, more = set_metadata(model, ["p"], "Mass", 1.5)
    assert [(m.key, m.value) for m in more.product("p").metadata] == [("Finish", "raw"), ("Mass", 1.5)]
    _, replaced = set_metadata(more, ["p"], "Finish", "ground")
    assert [m.value for m in replaced.product("p").metadata] == ["ground", 1.5]
    _, less = without_metadatum(replaced, ["p"], "Finish")
    assert [m.key for m in less.product("p").metadata] == ["Mass"]
    with pytest.raises(UsageError, match="name"):
        set_metadata(model, ["p"], "  ", "x")


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [("7", "integer", 7), ("1,5", "real", 1.5), ("no", "boolean", False), (" a b ", "text", " a b ")],
)
def test_values_are_read_by_their_kind(text: str, kind: str, value: object) -> None:
    assert parse_value(text, kind) == value


@pytest.mark.parametrize(("text", "kind"), [("7.5", "integer"), ("x", "real"), ("maybe", "boolean")])
def test_values_of_the_wrong_kind_are_refused(text: str, kind: str) -> None:
    with pytest.raises(UsageError):
        parse_value(text, kind)
