"""An IGES file as records, without the kernel: sections, directory entries and their parameters.

Source: IGES 5.3 (US PRO/IPO-100), clause 2.2: fixed lines of 80 columns, the section letter in column
73 (S start, G global, D directory, P parameter, T terminate), sequence numbers in columns 74 to 80;
texts as counted Hollerith strings; free parameter and record delimiters.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from gondrel.core.errors import InputError, MalformedFile, UnsupportedContent

__all__ = [
    "Entity",
    "IgesFile",
    "Value",
    "is_iges",
    "line_bounds",
    "open_iges",
    "parse_iges",
    "split_values",
]

_LETTER = 72
_WIDTH = 80
_FREE = 64
_LONGEST = 4_000_000

Value = str | None
"""A parameter: its text as it stands; a Hollerith string begins with its mark; None when left out."""

_MARK = "\0"
"""Stands before the text of a Hollerith string, so that it is not taken for a number."""


def is_iges(head: bytes, path: str) -> bool:
    """Whether the first bytes of a file are those of an IGES file, in any of its forms."""
    line = head.split(b"\n", 1)[0].rstrip(b"\r").decode("latin-1")
    if len(line) < _LETTER + 1:
        return False
    return line[_LETTER] in "SCB" and line[_LETTER + 1 : _WIDTH].strip().isdigit()


def split_values(text: str, comma: str = ",", end: str = ";") -> tuple[list[Value], int]:
    """The values of a record from its text, and where the record ends.

    Raises:
        ValueError: when a string is longer than what is left or the record has no end.
    """
    if "H" not in text:
        stop = text.find(end)
        if stop < 0:
            raise ValueError("the record has no end")
        return [part.strip() or None for part in text[:stop].split(comma)], stop + 1
    values: list[Value] = []
    at, size = 0, len(text)
    while at < size:
        while at < size and text[at] == " ":
            at += 1
        begin = at
        while at < size and text[at].isdigit():
            at += 1
        if at > begin and at < size and text[at] == "H":
            length = int(text[begin:at])
            if length > _LONGEST or at + 1 + length > size:
                raise ValueError(f"a string of {length} characters is longer than what is left")
            values.append(_MARK + text[at + 1 : at + 1 + length])
            at += 1 + length
            while at < size and text[at] == " ":
                at += 1
            if at < size and text[at] not in (comma, end):
                raise ValueError("a string is not followed by a delimiter")
        else:
            while at < size and text[at] not in (comma, end):
                at += 1
            values.append(text[begin:at].strip() or None)
        if at >= size:
            break
        if text[at] == end:
            return values, at + 1
        at += 1
    raise ValueError("the record has no end")


@dataclass(slots=True)
class Entity:
    """One entity: its directory entry and its parameters.

    Args:
        number: sequence number of the directory entry's first line; what pointers name.
        kind, form: entity type and form number.
        values: the parameters behind the type number.
        level: level number; when negative, it points to a property listing levels.
        colour: colour number; when negative, it points to a colour definition.
        blank, subordinate, use: from the status number.
    """

    number: int
    kind: int
    form: int
    values: list[Value]
    structure: int = 0
    level: int = 0
    view: int = 0
    transform: int = 0
    colour: int = 0
    blank: int = 0
    subordinate: int = 0
    use: int = 0
    label: str = ""
    line: int = 0

    def _fail(self, at: int, wanted: str) -> MalformedFile:
        value = self.values[at] if at < len(self.values) else "nothing"
        return MalformedFile(f"parameter {at + 1} should be {wanted}, not {value!r}", where=self.place)

    @property
    def place(self) -> str:
        """Where it is, for people."""
        return f"D{self.number} (type {self.kind})"

    def integer(self, at: int, default: int = 0) -> int:
        """An integer parameter, the default where it is left out. Raises MalformedFile."""
        value = self.values[at] if at < len(self.values) else None
        if value is None:
            return default
        try:
            return int(value)
        except ValueError:
            number = self.real(at)
            if math.isfinite(number) and number == int(number):
                return int(number)
            raise self._fail(at, "an integer") from None

    def pointer(self, at: int) -> int:
        """The number of the entity a parameter points to, 0 for none. Raises MalformedFile."""
        return abs(self.integer(at))

    def real(self, at: int, default: float = 0.0) -> float:
        """A real parameter, the default where it is left out. Raises MalformedFile."""
        value = self.values[at] if at < len(self.values) else None
        if value is None:
            return default
        try:
            return float(value.replace("D", "E").replace("d", "e"))
        except (ValueError, OverflowError):
            raise self._fail(at, "a number") from None

    def text(self, at: int) -> str:
        """A string parameter, empty where it is left out."""
        value = self.values[at] if at < len(self.values) else None
        return "" if value is None else value.removeprefix(_MARK)


class IgesFile:
    """All records of a file.

    Args:
        start: the start section's lines; globals: values of the global section, from the third on at
            place 2; entities: by number, in the order of the file.
    """

    def __init__(
        self,
        path: str,
        size: int,
        start: tuple[str, ...],
        header: Sequence[Value],
        entities: dict[int, Entity],
        remarks: tuple[str, ...],
    ) -> None:
        self.path = path
        self.size = size
        self.start = start
        self.header = header
        self.entities = entities
        self.remarks = remarks

    def said(self, place: int) -> str:
        """A value of the global section by its place in the standard's table, from 1."""
        value = self.header[place - 1] if place <= len(self.header) else None
        return "" if value is None else value.removeprefix(_MARK)

    def number(self, place: int, default: float) -> float:
        """A number of the global section; the default where it is left out or senseless."""
        try:
            return float(self.said(place).replace("D", "E"))
        except ValueError:
            return default

    def at(self, number: int) -> Entity | None:
        """The entity with this number, None when there is none."""
        return self.entities.get(number)

    def of(self, *kinds: int) -> Iterator[Entity]:
        """The entities of some types, in the order of the file."""
        return (e for e in self.entities.values() if e.kind in kinds)

    @cached_property
    def counts(self) -> Counter[int]:
        """How many entities of each type the file holds."""
        return Counter(e.kind for e in self.entities.values())


def open_iges(path: str) -> IgesFile:
    """The records of a file.

    Raises:
        InputError: when it can't be opened.
        UnsupportedContent: when it is in the compressed or the binary form.
        MalformedFile: when it breaks the format's rules, carrying the line.
    """
    try:
        data = Path(path).read_bytes()
    except OSError as error:
        raise InputError(f"can't be opened: {error.strerror}", file=path) from error
    try:
        return parse_iges(data, path)
    except MalformedFile as error:
        error.file = error.file or path
        raise


def parse_iges(data: bytes, path: str = "") -> IgesFile:
    """The records of a file's content. Raises as open_iges."""
    lines = data.decode("latin-1").splitlines()
    if len(lines) == 1 and len(data) > 2 * _WIDTH:  # lines without line ends
        text = lines[0]
        lines = [text[at : at + _WIDTH] for at in range(0, len(text), _WIDTH)]
    first = lines[0][_LETTER : _LETTER + 1] if lines else ""
    if first in ("C", "B"):
        form = "compressed" if first == "C" else "binary"
        hint = "have it written as fixed ASCII lines"
        raise UnsupportedContent(
            f"IGES in the {form} form is not read", file=path, where="line 1", hint=hint
        )
    sections = _sections(lines)
    if not sections["T"]:
        where = f"line {len(lines)}"
        raise MalformedFile("the file is cut off: it has no terminate section", file=path, where=where)
    header, comma, end = _header("".join(line[:_LETTER] for _, line in sections["G"]))
    remarks: list[str] = []
    entities = _entities(sections["D"], sections["P"], comma, end, remarks)
    _check_counts(sections, remarks)
    start = tuple(line[:_LETTER].rstrip() for _, line in sections["S"])
    return IgesFile(path, len(data), start, header, entities, tuple(remarks))


def line_bounds(data: bytes) -> Iterator[tuple[int, str]]:
    """Offset of each line of a file that parse_iges takes, and the letter of its section."""
    text = data.decode("latin-1")
    whole = text.splitlines(keepends=True)
    if len(whole) == 1:
        whole = [text[at : at + _WIDTH] for at in range(0, len(text), _WIDTH)]
    at = 0
    for line in whole:
        letter = line[_LETTER : _LETTER + 1]
        yield at, letter
        if letter == "T":
            return
        at += len(line)


Lines = list[tuple[int, str]]


def _sections(lines: list[str]) -> dict[str, Lines]:
    sections: dict[str, Lines] = {letter: [] for letter in "SGDPT"}
    for number, line in enumerate(lines, 1):
        if len(line) <= _LETTER:
            if line.strip("\0\x1a \t"):
                raise MalformedFile("the line is too short to name its section", where=f"line {number}")
            continue
        letter = line[_LETTER]
        if letter not in sections:
            raise MalformedFile(f"column 73 should name a section, not {letter!r}", where=f"line {number}")
        sections[letter].append((number, line))
        if letter == "T":
            break
    return sections


def _header(text: str) -> tuple[list[Value], str, str]:
    """Values of the global section, the parameter delimiter and the record delimiter."""
    comma, end = ",", ";"
    if text.startswith("1H") and len(text) > 3:
        comma = text[2]
        rest = text[4:]
        if rest.startswith("1H") and len(rest) > 2:
            end = rest[2]
        elif rest[:1] != comma and rest[:1]:
            raise MalformedFile("the global section names no record delimiter", where="global section")
    elif text.startswith(",1H") and len(text) > 3:
        end = text[3]
    try:
        values, _ = split_values(text, comma, end)
    except ValueError as error:
        raise MalformedFile(
            f"the global section makes no sense: {error}", where="global section"
        ) from error
    return values, comma, end


def _entities(
    directory: Lines, parameters: Lines, comma: str, end: str, remarks: list[str]
) -> dict[int, Entity]:
    if len(directory) % 2:
        where = f"line {directory[-1][0]}"
        raise MalformedFile("the last directory entry has one line, it should have two", where=where)
    entities: dict[int, Entity] = {}
    uncounted = 0
    for at in range(0, len(directory), 2):
        line_number, one = directory[at]
        _, two = directory[at + 1]
        number = at + 1
        try:
            fields = [one[i : i + 8].strip() for i in range(0, _LETTER, 8)]
            more = [two[i : i + 8].strip() for i in range(0, _LETTER, 8)]
            kind, first = int(fields[0] or 0), int(fields[1] or 0)
            status = one[64:72].replace(" ", "0").rjust(8, "0")
            count = int(more[3] or 0)
            entity = Entity(
                number, kind, int(more[4] or 0), [], int(fields[2] or 0), int(fields[4] or 0),
                int(fields[5] or 0), int(fields[6] or 0), int(more[2] or 0), int(status[0:2]),
                int(status[2:4]), int(status[4:6]), more[7], line_number,
            )  # fmt: skip
        except ValueError:
            raise MalformedFile(
                "a directory entry holds no number where it should", where=f"line {line_number}"
            ) from None
        if more[0] and more[0] != fields[0]:
            text = f"the lines of a directory entry name two types, {fields[0]} and {more[0]}"
            raise MalformedFile(text, where=f"line {line_number}")
        if kind and first:
            if first < 1 or first > len(parameters):
                raise MalformedFile(
                    f"its parameters should start at P{first}, the section has {len(parameters)} lines",
                    where=entity.place,
                )
            uncounted += count < 1
            entity.values = _values(entity, parameters, first, max(count, 1), comma, end)
        entities[number] = entity
    if uncounted:
        remarks.append(f"{uncounted} directory entries do not say how many parameter lines they have")
    return entities


def _values(entity: Entity, parameters: Lines, first: int, count: int, comma: str, end: str) -> list[Value]:
    if count == 1:
        text = parameters[first - 1][1][:_FREE]
    else:
        last = min(first - 1 + count, len(parameters))
        text = "".join(line[:_FREE] for _, line in parameters[first - 1 : last])
    try:
        values, _ = split_values(text, comma, end)
    except ValueError as error:
        where = f"line {parameters[first - 1][0]}, {entity.place}"
        raise MalformedFile(f"its parameters make no sense: {error}", where=where) from error
    try:
        kind = int(values[0] or 0)
    except ValueError:
        kind = -1
    if kind != entity.kind:
        where = f"line {parameters[first - 1][0]}, {entity.place}"
        raise MalformedFile(f"its parameters are those of type {values[0]}", where=where)
    return values[1:]


def _check_counts(sections: dict[str, Lines], remarks: list[str]) -> None:
    """Whether the terminate section counts the lines that are there."""
    line = sections["T"][0][1]
    for place, letter in enumerate("SGDP"):
        said = line[place * 8 : place * 8 + 8]
        if said[:1] == letter and said[1:].strip().isdigit():
            count = int(said[1:])
            if count != len(sections[letter]):
                where = sections[letter][-1][0] if sections[letter] else 1
                if count > len(sections[letter]):
                    raise MalformedFile(
                        f"section {letter} should have {count} lines, {len(sections[letter])} are there",
                        where=f"line {where}",
                    )
                remarks.append(
                    f"section {letter} should have {count} lines, {len(sections[letter])} are there"
                )
