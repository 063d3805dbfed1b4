"""The records reader: lines, sections, strings, delimiters, and what it refuses."""

from __future__ import annotations

import pytest

from gondrel.core.errors import MalformedFile, UnsupportedContent
from gondrel.core.formats.iges.card import card_of
from gondrel.core.formats.iges.compose import EntityComposer, ascii_of, real_text
from gondrel.core.formats.iges.records import is_iges, parse_iges, split_values
from gondrel.core.formats.iges.structure import Planner
from gondrel.core.formats.iges.units import unit_of
from tests.core.formats.iges.texts import header, text_of


def _line(make: EntityComposer) -> None:
    make.add(110, [0.0, 0.0, 0.0, 1.0, 2.0, 3.0])


def test_the_section_letter_stands_in_column_73() -> None:
    """Source: IGES 5.3, clause 2.2.1 (fixed lines of 80 columns)."""
    lines = text_of(_line).decode().splitlines()
    assert all(len(line) == 80 for line in lines)
    assert "".join(dict.fromkeys(line[72] for line in lines)) == "SGDPT"
    for letter in "SGDP":
        numbers = [int(line[73:]) for line in lines if line[72] == letter]
        assert numbers == list(range(1, len(numbers) + 1))


@pytest.mark.parametrize(
    ("flag", "size"),
    [(1, 25.4), (2, 1.0), (4, 304.8), (5, 1609344.0), (6, 1000.0), (7, 1e6), (8, 0.0254), (9, 1e-3),
     (10, 10.0), (11, 2.54e-5)],
)  # fmt: skip
def test_unit_flags(flag: int, size: float) -> None:
    """Source: IGES 5.3, clause 2.2.4.3.14: inch, millimetre, foot, mile, metre, kilometre, mil, micron,
    centimetre, microinch under flags 1, 2 and 4 to 11."""
    assert unit_of(parse_iges(text_of(_line, header(flag, "")))).mm == pytest.approx(size, rel=1e-12)


def test_flag_3_leaves_the_unit_to_its_name() -> None:
    assert unit_of(parse_iges(text_of(_line, header(3, "INCH")))).key == "inch"
    file = parse_iges(text_of(_line, header(3, "CUBIT")))
    card = card_of(file, Planner(file).make())
    assert "unit-missing" in {note.code for note in card.notes} and card.mm_per_unit == 25.4


def test_unit_flag_and_name_at_odds_are_told() -> None:
    file = parse_iges(text_of(_line, header(2, "IN")))
    assert "unit-in-doubt" in {note.code for note in card_of(file, Planner(file).make()).notes}


def test_strings_may_hold_delimiters_and_cross_lines() -> None:
    long = "a;b,c" * 40
    file = parse_iges(text_of(lambda make: make.add(406, [1, long.encode()], form=15)))
    assert file.entities[1].text(1) == long


def test_other_delimiters() -> None:
    data = text_of(_line).decode()
    swapped = data.replace(",", "\x01").replace(";", "|").replace("\x01", "/").replace("1H/", "1H/")
    file = parse_iges(swapped.encode())
    assert file.entities[1].real(5) == 3.0 and file.said(21) == "A. Author"


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("1,2.5,,7;", ["1", "2.5", None, "7"]),
        ("3Habc,5H;,;,x,1;", ["\0abc", "\0;,;,x", "1"]),
        (" 4 , 2H  ;", ["4", "\0  "]),
        (";", [None]),
    ],
)
def test_split_values(text: str, values: list[str | None]) -> None:
    assert split_values(text)[0] == values


@pytest.mark.parametrize("text", ["1,2", "9Habc;", "3Habcd;"])
def test_split_values_refuses(text: str) -> None:
    with pytest.raises(ValueError, match=r"record|string"):
        split_values(text)


@pytest.mark.parametrize("value", [0.0, -0.0, 1.0, -2.5, 1e-300, 1.5e17, 0.1, 123456789.125, 1 / 3])
def test_reals_keep_every_digit_and_have_a_point(value: float) -> None:
    text = real_text(value)
    assert float(text) == value and "." in text


def test_compressed_and_binary_forms_are_refused_by_name() -> None:
    for letter, name in (("C", "compressed"), ("B", "binary")):
        data = (" " * 72 + letter + "      1\n").encode() * 3
        assert is_iges(data, "")
        with pytest.raises(UnsupportedContent, match=name):
            parse_iges(data)


def test_a_cut_off_file_is_refused_with_the_line() -> None:
    data = text_of(_line)
    with pytest.raises(MalformedFile, match="cut off") as caught:
        parse_iges(data[: len(data) // 81 // 2 * 81])
    assert caught.value.where.startswith("line")


def test_a_missing_line_is_told() -> None:
    lines = text_of(_line).decode().splitlines()
    kept = [line for line in lines if line[72] != "P"]
    with pytest.raises(MalformedFile):
        parse_iges("\n".join(kept).encode())


def test_entities_built_of_themselves_are_refused() -> None:
    def circle(make: EntityComposer) -> None:
        make.add(102, [2, 3, 3])
        make.add(102, [1, 1])

    with pytest.raises(MalformedFile, match="itself"):
        Planner(parse_iges(text_of(circle))).make()


def test_spelling() -> None:
    assert ascii_of("Plain 12") == "Plain 12"
    assert ascii_of("Größe × 日本") == "Grosse ? ??"


def test_the_card_says_who_wrote_it() -> None:
    file = parse_iges(text_of(_line))
    card = card_of(file, Planner(file).make())
    writer = card.written_by
    assert card.label == "IGES 5.3" and writer.date == "2026-01-02T03:04:05"
    assert (writer.system, writer.author, writer.organisation) == ("Sender 4", "A. Author", "Ostrey")


def test_an_old_edition_is_told() -> None:
    file = parse_iges(text_of(_line, header(p23=6)))
    card = card_of(file, Planner(file).make())
    assert card.schema == "IGES 4.0" and "old-edition" in {note.code for note in card.notes}
