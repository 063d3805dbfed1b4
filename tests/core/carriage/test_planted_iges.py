"""Changes planted in the text of an IGES file: each is told in its cell, and the unchanged file has none.

Source: IGES 5.3, clauses 2.2.4 (directory entries of two lines in columns of eight) and 2.2.4.4
(parameter lines), from memory.
"""

from __future__ import annotations

from collections.abc import Callable

import pytest

from tests.core.carriage.planted import Original, original

pytestmark = pytest.mark.slow

Lines = list[str]
Edit = Callable[[Lines], None]

_DATA = 64
"""Columns of a parameter line that hold values."""


def parameters(lines: Lines) -> dict[int, tuple[list[int], str]]:
    """By the number of an entity: its parameter lines and their values as one text."""
    found: dict[int, tuple[list[int], str]] = {}
    for place, line in enumerate(lines):
        if line[72:73] == "P":
            number = int(line[_DATA:72])
            places, text = found.get(number, ([], ""))
            found[number] = [*places, place], text + line[:_DATA]
    return found


def swap(old: str, new: str, kind: int = 0) -> Edit:
    """Put a text of the same length in the place of one in the values of an entity, of a type if given."""
    assert len(old) == len(new)

    def edit(lines: Lines) -> None:
        for places, text in parameters(lines).values():
            if old in text and (not kind or text.startswith(f"{kind},")):
                changed = text.replace(old, new, 1)
                for index, place in enumerate(places):
                    part = changed[index * _DATA : (index + 1) * _DATA]
                    lines[place] = part + lines[place][_DATA:]
                return
        raise AssertionError(old)

    return edit


def entry(kind: int, field: int, value: str, *, old: str) -> Edit:
    """Put a value of eight columns into the directory entry of the first entity of a type.

    Args:
        field: of the two lines of an entry, from 1; old: how what stands there begins in those that count.
    """

    def edit(lines: Lines) -> None:
        for place, line in enumerate(lines):
            is_first = line[72:73] == "D" and int(line[73:80]) % 2 == 1
            if not is_first or int(line[:8]) != kind:
                continue
            at, column = (place, field - 1) if field < 10 else (place + 1, field - 11)
            row = lines[at]
            if row[column * 8 : column * 8 + 8].strip().startswith(old):
                lines[at] = row[: column * 8] + f"{value:>8}" + row[column * 8 + 8 :]
                return
        raise AssertionError((kind, field))

    return edit


def swapped_faces(lines: Lines) -> None:
    """Two faces change their colours."""
    entries = [
        place
        for place, line in enumerate(lines)
        if line[72:73] == "D" and int(line[73:80]) % 2 == 1 and int(line[:8]) == 510
    ]
    colour = {place: lines[place + 1][16:24] for place in entries}
    one = next(place for place in entries if int(colour[place] or 0) != 0)
    other = next(place for place in entries if colour[place] != colour[one])
    for place, shown in ((one, colour[other]), (other, colour[one])):
        row = lines[place + 1]
        lines[place + 1] = row[:16] + shown + row[24:]


CHANGES: tuple[tuple[str, Edit, str, str], ...] = (
    ("name of a product", swap("5HPlate", "5HPlane", 308), "names", "altered"),
    ("name of the whole", swap("3HTop", "3HTip", 308), "names", "altered"),
    ("name of a body", swap("6HPlatte", "6HPlattf", 406), "names", "altered"),
    ("name of a component", swap("8Hpin left", "8Hpin lift", 406), "names", "altered"),
    ("name of a face", swap("4Hbore", "4Hhole", 406), "names", "altered"),
    ("number", swap("3HP-2", "3HP-3", 406), "numbers", "altered"),
    ("revision", swap("REVISION,1,3,1HA", "REVISION,1,3,1HB"), "revisions", "altered"),
    ("revision is no more", swap("REVISION,1,3,1HA", "REVISIOM,1,3,1HA"),
     "revisions", "lost"),
    ("description", swap("6Hturned", "6Hmilled"), "metadata", "altered"),
    ("metadata value", swap("5HCount,1,1,7", "5HCount,1,1,8"), "metadata", "altered"),
    ("kind of a metadata value", swap("7HChecked,1,6,1", "7HChecked,1,1,1"), "metadata", "altered"),
    ("metadata key", swap("5HCount,1,1,7", "5HCounu,1,1,7"), "metadata", "lost"),
    ("metadata of a component", swap("2H12", "2H13"), "metadata", "altered"),
    ("material", swap("6HBronze", "6HBronzo"), "materials", "altered"),
    ("density", swap("7850.", "7851."), "materials", "altered"),
    ("colour of a body", entry(186, 13, "3", old="2"), "colours", "altered"),
    ("colour of a body is gone", entry(186, 13, "0", old="2"), "colours", "lost"),
    ("colour of a component", entry(408, 13, "5", old="4"), "colours", "altered"),
    ("colour of a component is gone", entry(408, 13, "0", old="4"), "colours", "lost"),
    ("face colours change places", swapped_faces, "colours", "altered"),
    ("colour of a face that had none", entry(510, 13, "7", old="0"), "colours", "altered"),
    ("level is another", swap("1HA", "1HZ", 406), "layers", "altered"),
    ("level of a component added", entry(408, 5, "9", old="0"), "layers", "added"),
    ("level of a body added", entry(186, 5, "9", old="0"), "layers", "added"),
    ("level of a face is gone", entry(510, 5, "0", old="-"), "layers", "lost"),
    ("hidden body shown", entry(186, 9, "00020000", old="01020000"), "layers", "lost"),
    ("body hidden", entry(186, 9, "01020000", old="00020000"), "layers", "added"),
    ("component moved", swap("90.,20.,3.", "90.,20.,4.", 408), "placement", "altered"),
    ("alias", swap("OLD-1", "OLD-3"), "numbers", "altered"),
)  # fmt: skip


@pytest.fixture(scope="module")
def sent(tmp_path_factory) -> Original:
    return original("iges-solid", ".igs", tmp_path_factory.mktemp("planted"))


def test_the_unchanged_file_has_nothing(sent) -> None:
    proof = sent.proof(sent.data)
    assert proof.verdict == "carried"
    assert not [c for e in proof.ledger.entries for c in e.items if c.verdict != "carried"]


def test_there_are_enough_of_them() -> None:
    assert len({name for name, *_ in CHANGES}) >= 20


@pytest.mark.parametrize(("name", "edit", "thing", "verdict"), CHANGES, ids=[c[0] for c in CHANGES])
def test_a_change_is_told_in_its_cell(name, edit, thing, verdict, sent) -> None:
    lines = sent.data.decode("ascii").split("\n")
    edit(lines)
    sent.tells("\n".join(lines).encode("ascii"), thing, verdict)
