"""Embedded schemas: how a newer file tells its node types as edits of schema 13006.

Source: the published XT format reference, the part on embedded schemas; the coding below was
checked against an independent parser, text and binary.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from gondrel.core.errors import UnsupportedContent
from gondrel.core.formats.xt.schema import BASE, SCALARS, Field, NodeType, base_schema

__all__ = ["MOST_USER_FIELDS", "SAME", "EditError", "EditSource", "is_embedded", "learn_type", "read_type"]

SAME = 255
"""Field count that stands for: as in the base schema."""

MOST_USER_FIELDS = 16
_MOST_FIELDS = 400


class EditError(ValueError):
    """An edit script that makes no sense; the reader adds the place."""


@dataclass(frozen=True, slots=True)
class EditSource:
    """How the parts of an edit script are taken from a file.

    Args:
        count: the number of fields; letter: one edit letter; string: a counted string;
        number: a pointer class; positive: an element count.
    """

    count: Callable[[], int]
    letter: Callable[[], str]
    string: Callable[[], str]
    number: Callable[[], int]
    positive: Callable[[], int]


def is_embedded(key: str, file: str) -> bool:
    """Whether a schema key says that the file tells its node types as edits.

    Raises:
        UnsupportedContent: when the key names neither schema 13006 nor edits of it.
    """
    if key.rpartition("_")[2] != str(BASE):
        raise UnsupportedContent(
            f"its schema {key} is neither {BASE} nor told in the file as edits of it",
            file=file,
            hint="have it written for version 13 or newer with its schema embedded",
        )
    return key.count("_") == 3


def learn_type(number: int, source: EditSource | None) -> NodeType:
    """The node type behind a number at its first node, from the file's edits or the base schema alone.

    Raises:
        EditError: when the script makes no sense, or the base schema has no such type.
    """
    base = base_schema().get(number)
    if source is not None:
        return read_type(number, base, source)
    if base is None:
        raise EditError(f"node type {number} is not in schema {BASE}")
    return base


def _read_field(source: EditSource) -> Field:
    name = source.string()
    target = source.number()
    count = source.positive()
    letter = "p" if target else source.string()
    if letter not in SCALARS or len(letter) != 1:
        raise EditError(f"the field {name!r} has the unknown type {letter!r}")
    return Field(name, letter, count, target)


def read_type(number: int, base: NodeType | None, source: EditSource) -> NodeType:
    """The node type a file means by a number, from the script at its first node.

    Raises:
        EditError: when the script makes no sense.
    """
    count = source.count()
    if count == SAME:
        if base is None:
            raise EditError(f"node type {number} is said to be as in the base schema, which has none")
        return base
    if count > _MOST_FIELDS:
        raise EditError(f"node type {number} is said to have {count} fields")
    if base is None:
        name = source.string()
        source.string()
        made = NodeType(number, name or f"TYPE_{number}", tuple(_read_field(source) for _ in range(count)))
    else:
        made = NodeType(number, base.name, tuple(_edited(base, source)))
    if len(made.fields) != count:
        raise EditError(
            f"node type {number} is said to have {count} fields; its edits make {len(made.fields)}"
        )
    if len(made.positions) != count:
        raise EditError(f"node type {number} has two fields of one name")
    if any(f.count == 1 for f in made.fields[:-1]):
        raise EditError(f"node type {number} has a field of variable length that is not its last")
    return made


def _edited(base: NodeType, source: EditSource) -> list[Field]:
    fields: list[Field] = []
    lengths = {f.name for f in base.fields if f.is_length}
    at = 0
    while (letter := source.letter()) != "Z":
        if len(fields) > _MOST_FIELDS:
            raise EditError(f"the edits of node type {base.number} do not end")
        if letter in "CD":
            if at >= len(base.fields):
                raise EditError(f"the edits of node type {base.number} go past its last field")
            if letter == "C":
                fields.append(base.fields[at])
            at += 1
        elif letter in "IA":
            field = _read_field(source)
            fields.append(replace(field, is_length=field.name in lengths))
        else:
            raise EditError(f"unknown edit {letter!r} of node type {base.number}")
    return fields
