"""Putting an IGES file together from entities: numbering, directory, parameters, sections.

Source: IGES 5.3 (US PRO/IPO-100), clause 2.2.4, from memory.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, field

from gondrel.core.formats.iges.entities import links_of
from gondrel.core.formats.iges.records import Entity, IgesFile

__all__ = ["Datum", "EntityComposer", "ascii_of"]

Datum = str | int | float | bytes | None
"""A parameter to write: text in bytes is a string, in str stands as it is."""

_MARK = "\0"
_WIDTH, _FREE = 72, 64


def ascii_of(text: str) -> str:
    """A text in printable ASCII, which is all that IGES can spell; other signs lose their marks or
    become question marks."""
    if text.isascii() and text.isprintable():
        return text
    plain = unicodedata.normalize("NFKD", text.replace("\u00df", "ss"))
    kept = (c for c in plain if not unicodedata.combining(c))
    return "".join(c if c.isascii() and c.isprintable() else "?" for c in kept)


def real_text(value: float) -> str:
    """A real number as IGES writes it, to the last digit."""
    text = repr(float(value)).upper()
    head, mark, power = text.partition("E")
    if "." not in head:
        head += "."
    if head.endswith(".0") and head != "-0.0" and head != "0.0":
        head = head[:-1]
    elif head in ("-0.0", "0.0"):
        head = "0."
    return f"{head}E{power}" if mark else head


def _spelled(value: Datum) -> str:
    if value is None:
        return ""
    if isinstance(value, bytes):
        return f"{len(value)}H{value.decode('ascii')}" if value else ""
    if isinstance(value, bool):
        return str(int(value))
    return real_text(value) if isinstance(value, float) else str(value)


@dataclass(slots=True)
class _Out:
    kind: int
    form: int
    values: list[str]
    level: int = 0
    transform: int = 0
    colour: int = 0
    status: str = "00000000"
    label: str = ""


@dataclass(slots=True)
class EntityComposer:
    """Gathers entities; each is numbered as it is added."""

    entities: list[_Out] = field(default_factory=list)

    def add(
        self, kind: int, values: Sequence[Datum], *, form: int = 0, level: int = 0, transform: int = 0,
        colour: int = 0, status: str = "00000000", label: str = "",
    ) -> int:  # fmt: skip
        """Add an entity; returns its number. Links are numbers among the values."""
        texts = [_spelled(v) for v in values]
        self.entities.append(_Out(kind, form, texts, level, transform, colour, status, label))
        return 2 * len(self.entities) - 1

    def out(self, number: int) -> _Out:
        """An entity that was added, to be completed."""
        return self.entities[(number - 1) // 2]

    def link(self, number: int, properties: Sequence[int]) -> None:
        """Give an entity properties; nothing may stand behind its own values yet."""
        if properties:
            self.out(number).values += ["0", str(len(properties)), *map(str, properties)]

    def embed(self, file: IgesFile) -> int:
        """Add all entities of another file; returns what their numbers were raised by."""
        offset = 2 * len(self.entities)
        for entity in file.entities.values():
            self.entities.append(_embedded(entity, offset))
        return offset

    def text(self, start: Sequence[str], header: Sequence[Datum]) -> bytes:
        """The whole file."""
        sections: list[tuple[str, list[str]]] = [
            ("S", [line[:_WIDTH].ljust(_WIDTH) for line in start]),
            ("G", _wrapped([_spelled(v) for v in header], _WIDTH)),
        ]
        directory: list[str] = []
        parameters: list[str] = []
        for place, entity in enumerate(self.entities):
            number = 2 * place + 1
            lines = _wrapped([str(entity.kind), *entity.values], _FREE)
            directory += _directory(entity, len(parameters) + 1, len(lines))
            parameters += [f"{line} {number:7d}" for line in lines]
        sections += [("D", directory), ("P", parameters)]
        counts = "".join(f"{letter}{len(lines):7d}" for letter, lines in sections)
        sections.append(("T", [counts.ljust(_WIDTH)]))
        return "".join(
            f"{line}{letter}{number:7d}\n"
            for letter, lines in sections
            for number, line in enumerate(lines, 1)
        ).encode("ascii")


def _embedded(entity: Entity, offset: int) -> _Out:
    texts = [_copied(value) for value in entity.values]
    for place in links_of(entity):
        number = entity.integer(place)
        if number:
            texts[place] = str(number + offset if number > 0 else number - offset)
    return _Out(
        entity.kind, entity.form, texts, 0,
        entity.transform + offset if entity.transform else 0, 0,
        f"{entity.blank:02d}{entity.subordinate:02d}{entity.use:02d}00",
    )  # fmt: skip


def _copied(value: str | None) -> str:
    if value is None:
        return ""
    if value.startswith(_MARK):
        return f"{len(value) - 1}H{value[1:]}"
    if "." in value or "E" in value:
        return real_text(float(value))
    return value


def _wrapped(texts: Sequence[str], width: int) -> list[str]:
    """Values in lines of a width; only strings may be broken, and numbers fit in a line."""
    lines: list[str] = []
    line = ""
    last = len(texts) - 1
    for place, text in enumerate(texts):
        piece = text + (";" if place == last else ",")
        if len(line) + len(piece) > width and not (len(piece) > width or "H" in text):
            lines.append(line.ljust(width))
            line = ""
        line += piece
        while len(line) > width:
            lines.append(line[:width])
            line = line[width:]
    if line:
        lines.append(line.ljust(width))
    return lines


def _directory(entity: _Out, first: int, count: int) -> list[str]:
    one = (
        f"{entity.kind:8d}{first:8d}{0:8d}{0:8d}{entity.level:8d}{0:8d}{entity.transform:8d}{0:8d}"
        f"{entity.status:>8}"
    )
    two = (
        f"{entity.kind:8d}{0:8d}{entity.colour:8d}{count:8d}{entity.form:8d}{'':16}"
        f"{entity.label[:8]:>8}{0:8d}"
    )
    return [one, two]
