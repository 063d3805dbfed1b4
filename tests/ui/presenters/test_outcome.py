"""What came of a receive, in words, without widgets."""

from __future__ import annotations

import csv
import io
from dataclasses import replace

import numpy as np
import pytest

from gondrel.core.carriage.changes import Change, Difference
from gondrel.core.errors import KernelRefused
from gondrel.core.model import Note
from gondrel.ui.presenters.outcome import (
    change_cards,
    far_away,
    is_complete,
    note_cards,
    outcome_csv,
    part_outcomes,
)
from tests.ui.presenters.models import gate

NOTES = (
    Note("body-not-made", "a face has no edges", "Pin #12"),
    Note("surfaces-joined", "6 surfaces became a solid", "Frame"),
    Note("name-repaired", "the name held a line break", "Frame"),
    Note("name-repaired", "the name held a line break", "Gate"),
    Note("old-schema", "the file is of an old edition", ""),
)


def test_every_part_is_clean_or_says_what_it_is_not() -> None:
    model = replace(gate(), notes=NOTES)
    parts = {p.label: p for p in part_outcomes(model, {})}
    assert set(parts) == {"Gate", "Frame", "Pin"}, "assemblies only where there is something to tell"
    assert not parts["Pin"].is_clean and parts["Pin"].notes[0].code == "body-not-made"
    assert not parts["Frame"].is_clean and len(parts["Frame"].notes) == 2
    only_joined = replace(model, notes=NOTES[1:2])
    assert all(p.is_clean for p in part_outcomes(only_joined, {})), "what went as it should is no trouble"
    shown = part_outcomes(gate(), {"blob-pin": KernelRefused("it can't be tessellated")})
    assert [n.code for p in shown for n in p.notes] == ["body-not-shown"]


def test_nothing_is_complete_while_something_grave_is_told() -> None:
    """A body that a dangling reference kept out belongs to no part; all parts that came are clean."""
    model = gate()
    assert is_complete(model, part_outcomes(model, {}))
    dangling = replace(model, notes=(Note("dangling-reference", "a shape points to nothing", "#12"),))
    parts = part_outcomes(dangling, {})
    assert all(part.is_clean for part in parts) and not is_complete(dangling, parts)
    harmless = replace(model, notes=(NOTES[1], NOTES[4]))
    assert is_complete(harmless, part_outcomes(harmless, {}))
    grave = replace(model, notes=NOTES[:1])
    assert not is_complete(grave, part_outcomes(grave, {}))


def test_equal_notes_are_one_card_the_gravest_first() -> None:
    cards = note_cards(NOTES, {"Pin": "pin", "Frame": "frame", "Gate": "top"})
    assert [card.verdict for card in cards] == ["lost", "altered", "altered", "carried"]
    grave, repaired = cards[0], cards[1]
    assert grave.title == "Body not made" and grave.text == "A face has no edges"
    assert grave.products == {"pin"} and grave.note == "Pin #12"
    assert repaired.text == "2 times, first: the name held a line break"
    assert repaired.products == {"frame", "top"} and repaired.note == "2 places"
    assert repaired.lines == ("Frame: the name held a line break", "Gate: the name held a line break")
    assert note_cards((), {}) == []


def test_the_outcome_as_lines_for_a_spreadsheet() -> None:
    model = replace(gate(), notes=NOTES)
    rows = list(csv.DictReader(io.StringIO(outcome_csv(model, {}))))
    assert {(r["part"], r["outcome"], r["code"]) for r in rows} == {
        ("Gate", "note", "name-repaired"), ("Frame", "clean", "surfaces-joined"),
        ("Frame", "note", "name-repaired"), ("Pin", "trouble", "body-not-made"), ("", "note", "old-schema"),
    }  # fmt: skip
    clean = list(csv.DictReader(io.StringIO(outcome_csv(gate(), {}))))
    assert {r["outcome"] for r in clean} == {"clean"} and len(clean) == 2


def test_changes_of_a_source_come_by_kind() -> None:
    changes = (
        Change("metadata", "pin", "Pin", "revision 'A' to 'B'"), Change("added", "nut", "Nut",
        "is there once"),
        Change("moved", "pin", "left", "moved by 5 mm"), Change("removed", "frame", "Frame",
        "was there once"),
    )  # fmt: skip
    cards = change_cards(Difference(changes, gate()))
    assert [(c.title, c.verdict) for c in cards] == [
        ("Nut: added", "added"), ("Frame: removed", "lost"), ("left: moved", "altered"),
        ("Pin: facts changed", "altered"),
    ]  # fmt: skip
    assert cards[2].text == "moved by 5 mm" and cards[2].products == {"pin"}


@pytest.mark.parametrize(
    ("away", "found"), [(9_000.0, []), (60_000.0, [9]), (-60_000.0, [9])]
)  # fmt: skip
def test_what_lies_far_off_is_found(away, found) -> None:
    """Nine things 100 mm apart and one far off; the limit is 10 m or fifty times the spread."""
    row = np.array([(100.0 * i, 0.0, 0.0) for i in range(9)])
    assert far_away(np.vstack((row, [(away, 0.0, 0.0)]))) == found
    assert far_away(row) == [] and far_away(np.array([(0, 0, 0), (1e9, 0, 0)])) == []
