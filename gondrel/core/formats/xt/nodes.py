"""Nodes and documents: what a file holds, as plain values, before anything is made of it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.xt.schema import BASE, MM_PER_METRE, NodeType

__all__ = ["Document", "Header", "Node", "times"]

_SHOWN = 40
"""Characters of a text that is told in an error."""

_VECTOR_SIZE = {"v": 3, "h": 3, "i": 2}


def _number(text: str) -> int | None:
    return None if text == "?" else int(text)


def _real(text: str) -> float | None:
    return None if text == "?" else float(text)


def _values(text: str, letter: str) -> list[Any]:
    """The values of a run of numbers of one type letter; a null vector is one question mark."""
    size = _VECTOR_SIZE.get(letter, 1)
    parts = text.replace("?", " ? ").split() if "?" in text else text.split()
    if size == 1:
        if letter == "f":
            return [_real(p) for p in parts] if "?" in text else [float(p) for p in parts]
        return [_number(p) for p in parts] if "?" in text else [int(p) for p in parts]
    values: list[Any] = []
    at = 0
    while at < len(parts):
        if parts[at] == "?":
            values.append(None)
            at += 1
        else:
            values.append(tuple(float(p) for p in parts[at : at + size]))
            at += size
    return values


def times(value: Any, factor: float) -> Any:
    """A number, vector or list of either, each number multiplied; nulls stay."""
    if value is None:
        return None
    if isinstance(value, list | tuple):
        return type(value)(times(part, factor) for part in value)
    return value * factor


class Node:
    """One node: its type, its index and its values, turned from text when they are asked for.

    A pointer is the index of the node it leads to, 0 for none; a null number or vector is None;
    arrays are lists, but an array of characters is text.
    """

    __slots__ = ("_parts", "_raw", "index", "type", "user")

    def __init__(
        self,
        kind: NodeType,
        index: int,
        raw: list[Any] | str,
        parts: re.Pattern[str] | None = None,
        user: tuple[int, ...] = (),
    ) -> None:
        """A node.

        Args:
            raw: its values; with parts the text of all of them, or of each.
            parts: parts a text of all into those of the fields, one group each.
        """
        self.type = kind
        self.index = index
        self.user = user
        self._raw = raw
        self._parts = parts

    @property
    def kind(self) -> str:
        """The name of its type."""
        return self.type.name

    def __getitem__(self, name: str) -> Any:
        """The value of a field.

        Raises:
            KeyError: when the type has no such field. MalformedFile: when its text is no such value.
        """
        at = self.type.positions[name]
        raw = self._raw if isinstance(self._raw, list) else self._parted(self._raw)
        value = raw[at]
        if type(value) is not str or self._parts is None:
            return value
        try:
            return self._decoded(at, value, raw)
        except ValueError:
            shown = value if len(value) <= _SHOWN else f"{value[:_SHOWN]}..."
            text = f"field {name} holds {shown!r}, which is no such value"
            raise MalformedFile(text, where=repr(self)) from None

    def _parted(self, text: str) -> list[Any]:
        """The texts of the fields, which are kept."""
        match = self._parts.match(text) if self._parts is not None else None
        assert match is not None  # it was matched as a whole when it was read
        made = self._raw = list(match.groups())
        return made

    def _decoded(self, at: int, value: str, raw: list[Any]) -> Any:
        """The value of a field from its text, which is kept among the raw ones. Raises ValueError."""
        made: Any = value
        field_ = self.type.fields[at]
        if field_.letter in "dnupw" and not field_.count and value != "?":
            made = raw[at] = int(value)
        elif field_.letter not in "cl":
            values = _values(value, field_.letter)
            made = raw[at] = values if field_.count else values[0]
        elif field_.letter == "l" and field_.count:
            made = raw[at] = list(value)
        return made

    def in_mm(self, name: str) -> Any:
        """The value of a field, lengths in millimetres; of lists and vectors each.

        Raises:
            KeyError: when the type has no such field. MalformedFile: when its text is no such value.
        """
        value = self[name]
        return (
            times(value, MM_PER_METRE) if self.type.fields[self.type.positions[name]].is_length else value
        )

    def __contains__(self, name: str) -> bool:
        return name in self.type.positions

    def get(self, name: str, default: Any = None) -> Any:
        """The value of a field, the default when the type has none of that name."""
        return self[name] if name in self.type.positions else default

    def values(self) -> list[Any]:
        """All values in the order of the fields."""
        return [self[f.name] for f in self.type.fields]

    def pointers(self) -> Iterator[int]:
        """Indices of the nodes it leads to, without nulls."""
        for f in self.type.pointers:
            value = self[f.name]
            yield from (v for v in (value if f.count else (value,)) if v)

    def __repr__(self) -> str:
        return f"{self.kind}#{self.index}"


@dataclass(frozen=True, slots=True)
class Header:
    """What comes before the nodes.

    Args:
        variant: "text" or "binary".
        entries: KEY=value pairs of the header lines, in order.
        version: the sentence naming the modeller's version.
        key: the schema key, e.g. SCH_1300000_13006.
        user_fields: number of user integers each node carries.
        embedded: whether the file carries edits of the base schema.
    """

    variant: str
    entries: tuple[tuple[str, str], ...] = ()
    version: str = ""
    key: str = f"SCH_1300000_{BASE}"
    user_fields: int = 0
    embedded: bool = False

    def entry(self, key: str) -> str:
        """The value of a header entry, empty when it is not there."""
        return dict(self.entries).get(key, "")


@dataclass(slots=True)
class Document:
    """A whole file: header, the node types it uses, the nodes by index in the order of the file.

    Args:
        remarks: what was put right while reading, in sentences.
    """

    header: Header
    schema: dict[int, NodeType]
    nodes: dict[int, Node]
    remarks: list[str] = field(default_factory=list)

    @property
    def root(self) -> Node:
        """The node of index 1, else the first. Raises KeyError when there is none."""
        if 1 in self.nodes:
            return self.nodes[1]
        for node in self.nodes.values():
            return node
        raise KeyError("there is no node")

    def at(self, index: int) -> Node | None:
        """The node of an index, None for the null pointer or one that leads nowhere."""
        return self.nodes.get(index)

    def counts(self) -> Counter[str]:
        """How many nodes there are of each type, by name."""
        return Counter(node.type.name for node in self.nodes.values())
