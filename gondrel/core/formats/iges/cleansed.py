"""A copy of an IGES file that the kernel can be given although some of its topology or properties make no
sense.

The kernel's parser follows every pointer of a loop or shell without asking whether it leads to one, and
dies of some that do not; and of a property that counts more values than it has. In the copy such entities,
and what they are built of and nothing sound is, are null entities (type 0), which every reader passes over;
all others keep their numbers.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from pathlib import Path

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.iges.entities import links_of
from gondrel.core.formats.iges.integrity import flaw_of
from gondrel.core.formats.iges.records import Entity, IgesFile, line_bounds

__all__ = ["cleansed", "senseless_properties", "senseless_topology"]

_PROPERTY = 406
_TOPOLOGY = (502, 504, 508, 510, 514, 186)
_NULL = b"       0"


def senseless_topology(file: IgesFile, bodies: Iterable[int]) -> frozenset[int]:
    """Numbers of the topological entities that the kernel must not be given.

    Args:
        bodies: numbers of the entities that bodies are made of.
    """
    kept: set[int] = set()
    for number in bodies:
        entity = file.at(number)
        if entity is not None and entity.kind in _TOPOLOGY and not _flaw(file, number):
            kept |= _beneath(file, number)
    return frozenset(e.number for e in file.of(*_TOPOLOGY) if e.number not in kept)


def senseless_properties(file: IgesFile) -> list[Entity]:
    """The property entities whose first parameter, how many values follow, is not so.

    Source: IGES 5.3, property entity (type 406).
    """
    return [entity for entity in file.of(_PROPERTY) if not _counts_right(entity)]


def _counts_right(entity: Entity) -> bool:
    try:
        return 0 <= entity.integer(0) < len(entity.values)
    except MalformedFile:
        return False


def _flaw(file: IgesFile, number: int) -> str:
    try:
        return flaw_of(file, number, ())
    except MalformedFile as error:
        return error.message


def _beneath(file: IgesFile, number: int) -> set[int]:
    """An entity and the topology it is built of."""
    seen: set[int] = set()
    stack = [number]
    while stack:
        entity = file.at(stack.pop())
        if entity is None or entity.number in seen or entity.kind not in _TOPOLOGY:
            continue
        seen.add(entity.number)
        stack += [entity.pointer(at) for at in links_of(entity)]
    return seen


def cleansed(path: str, numbers: Collection[int]) -> bytes:
    """The file with some entities as null entities."""
    data = bytearray(Path(path).read_bytes())
    directory = [start for start, letter in line_bounds(bytes(data)) if letter == "D"]
    for number in numbers:
        for line in directory[number - 1 : number + 1]:
            data[line : line + len(_NULL)] = _NULL
    return bytes(data)
