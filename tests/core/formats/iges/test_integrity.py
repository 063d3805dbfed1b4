"""Whether IGES entities are built of what they should be; each fault is made by hand in a sound file.

Types and parameters: IGES 5.3 (US PRO/IPO-100), clause 4, from memory.
"""

from __future__ import annotations

from collections.abc import Callable

import pytest

from gondrel.core.formats.iges.compose import EntityComposer
from gondrel.core.formats.iges.integrity import flaw_of
from gondrel.core.formats.iges.records import IgesFile, parse_iges
from tests.core.formats.iges.texts import add_block, header, text_of

LINE = [0.0, 0.0, 0.0, 10.0, 0.0, 0.0]


def made(fill: Callable[[EntityComposer], object]) -> IgesFile:
    return parse_iges(text_of(lambda make: fill(make) and None))


def first(file: IgesFile, kind: int) -> int:
    return next(file.of(kind)).number


def test_sound_entities_have_no_flaw() -> None:
    for as_solid, kind in ((True, 186), (False, 144)):
        file = made(lambda make, s=as_solid: add_block(make, 2, 3, 4, as_solid=s))
        for entity in file.of(kind):
            assert flaw_of(file, entity.number, ()) == ""
    composite = made(lambda make: make.add(102, [1, make.add(110, LINE)]))
    assert flaw_of(composite, first(composite, 102), ()) == ""


@pytest.mark.parametrize(
    ("values", "said"),
    [
        ([1, 99], "points to D99, which is not in the file"),
        ([2, 1, 0], "points to D0, which is not in the file"),
        ([1, 3], "which does not belong there"),
    ],
)
def test_a_composite_curve_of_what_is_no_curve(values, said) -> None:
    """D1 is a line, D3 a plane; D5 the composite curve."""

    def fill(make: EntityComposer) -> None:
        make.add(110, LINE)
        make.add(108, [0.0, 0.0, 1.0, 0.0, 0, 0.0, 0.0, 0.0, 0.0])
        make.add(102, values)

    file = made(fill)
    assert said in flaw_of(file, 5, ())


def test_a_trimmed_surface_may_do_without_an_outline_but_not_without_a_surface() -> None:
    def fill(make: EntityComposer) -> None:
        plane = make.add(108, [0.0, 0.0, 1.0, 0.0, 0, 0.0, 0.0, 0.0, 0.0])
        make.add(144, [plane, 0, 0, 0])
        make.add(144, [make.add(110, LINE), 0, 0, 0])

    file = made(fill)
    assert flaw_of(file, 3, ()) == ""
    assert first(file, 110) == 5
    assert "does not belong there" in flaw_of(file, 7, ())


def test_flaws_of_what_an_entity_is_built_of_are_its_own() -> None:
    """A revolved surface of a composite curve whose line is missing, two steps down."""

    def fill(make: EntityComposer) -> None:
        axis = make.add(110, LINE)
        curve = make.add(102, [1, 77])
        make.add(120, [axis, curve, 0.0, 3.0])

    file = made(fill)
    assert "D77" in flaw_of(file, first(file, 120), ())
    assert flaw_of(file, first(file, 110), ()) == ""
    assert flaw_of(file, 999, ()) == "D999 is not in the file"


def test_what_could_not_be_parsed_is_a_flaw_of_all_that_needs_it() -> None:
    def fill(make: EntityComposer) -> None:
        make.add(102, [1, make.add(110, LINE)])

    file = made(fill)
    line = first(file, 110)
    assert "make no sense" in flaw_of(file, first(file, 102), {line})


@pytest.mark.parametrize("kind", [504, 508])
@pytest.mark.parametrize("index", [0, 500])
def test_places_in_lists_of_edges_and_vertices_must_be_there(kind, index) -> None:
    """The first edge of a block names a vertex, and its first loop an edge, that its list has not."""
    text = text_of(lambda make: add_block(make, 2, 3, 4) and None)
    file = parse_iges(text)
    entity = next(file.of(kind))
    values = list(entity.values)
    values[3] = str(index)
    changed = _with_values(file, entity.number, values)
    assert "has none such" in flaw_of(changed, first(changed, 186), ())


def _with_values(file: IgesFile, number: int, values: list) -> IgesFile:
    """The file again with other values in one entity."""
    make = EntityComposer()
    make.embed(file)
    make.out(number).values[:] = [str(v) for v in values]
    return parse_iges(make.text(["changed for a test"], header()))
