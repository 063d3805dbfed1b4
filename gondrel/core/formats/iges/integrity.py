"""Whether what an entity is built of is there and of the right type: the kernel trusts it blindly.

Source: IGES 5.3 (US PRO/IPO-100), clause 4, for which types each parameter may point to; from memory.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.iges.entities import CURVES, SURFACES, TRIMMED, links_of, size_of
from gondrel.core.formats.iges.records import Entity, IgesFile

__all__ = ["flaw_of"]

_POINTS, _DIRECTION, _SHELL, _FACE, _LOOP, _EDGES, _VERTICES = 116, 123, 514, 510, 508, 504, 502
_ANY_CURVE = CURVES | {116}
_ALLOWED: dict[int, frozenset[int]] = {
    102: _ANY_CURVE, 108: CURVES | {142}, 118: CURVES, 120: CURVES, 122: CURVES, 130: CURVES,
    140: SURFACES, 141: CURVES | SURFACES, 142: CURVES | SURFACES, 143: SURFACES | {141},
    144: SURFACES | TRIMMED | {142}, 186: frozenset((_SHELL,)),
    190: frozenset((_POINTS, _DIRECTION)), 192: frozenset((_POINTS, _DIRECTION)),
    194: frozenset((_POINTS, _DIRECTION)), 196: frozenset((_POINTS, _DIRECTION)),
    198: frozenset((_POINTS, _DIRECTION)), 430: frozenset((186, 430)),
    _SHELL: frozenset((_FACE,)), _FACE: SURFACES | {_LOOP},
    _LOOP: CURVES | {_EDGES, _VERTICES}, _EDGES: CURVES | {_VERTICES},
}  # fmt: skip
_WHOLE = frozenset((186, _SHELL, _FACE, _EDGES, _VERTICES))
"""Types of which no parameter may be left out."""

_APART = 1e-2
"""How far a line may end from its vertex, as a share of how far that lies from the origin."""

_OPTIONAL = frozenset((108, 116, 142, 144, 190, 192, 194, 196, 198))
"""Types some of whose pointers may be 0."""


def flaw_of(file: IgesFile, number: int, refused: Collection[int]) -> str:
    """The first thing wrong with what an entity is built of, in words; empty when all is well. What the
    parser refused is told where nothing else is wrong.

    Args:
        refused: numbers of entities that could not be parsed.

    Raises:
        MalformedFile: when a count among its parameters is no count.
    """
    seen: set[int] = set()
    stack, unparsed = [number], ""
    while stack:
        at = stack.pop()
        if at in seen:
            continue
        seen.add(at)
        entity = file.at(at)
        if entity is None:
            return f"D{at} is not in the file"
        if at in refused and not unparsed:
            unparsed = f"the parameters of {entity.place} make no sense"
        for pointed in _built_of(entity):
            target = file.at(pointed)
            if not pointed and entity.kind in _OPTIONAL:
                continue
            if target is None:
                return f"{entity.place} points to D{pointed}, which is not in the file"
            if target.kind not in _ALLOWED.get(entity.kind, frozenset((target.kind,))):
                return f"{entity.place} points to {target.place}, which does not belong there"
            stack.append(pointed)
        flaw = _numbered(entity) or _counted(file, entity)
        if flaw:
            return flaw
    return unparsed


def _built_of(entity: Entity) -> Iterator[int]:
    if entity.kind in _ALLOWED:
        own = min(size_of(entity), len(entity.values))
        for place in links_of(entity):
            if place < own:
                yield entity.pointer(place)


def _numbered(entity: Entity) -> str:
    """Whether the parameters of a piece of geometry or topology are numbers, as they all must be."""
    if entity.kind not in _ALLOWED and not 100 <= entity.kind < 150 and entity.kind not in (502, 116, 123):
        return ""
    for place in range(min(size_of(entity), len(entity.values))):
        if entity.values[place] is None:
            continue
        try:
            value = entity.real(place)
        except MalformedFile:
            return f"parameter {place + 1} of {entity.place} is no number"
        if not math.isfinite(value):
            return f"parameter {place + 1} of {entity.place} is not finite"
    return ""


def _counted(file: IgesFile, entity: Entity) -> str:
    """Whether the places in lists of edges and vertices that an entity names are there."""
    if entity.kind == _EDGES:
        for first in range(1, 1 + 5 * entity.integer(0), 5):
            for at in (first + 1, first + 3):
                flaw = _in_list(file, entity, at) or _off_vertex(file, entity, first, at)
                if flaw:
                    return flaw
    if entity.kind in _WHOLE and len(entity.values) < size_of(entity):
        return f"{entity.place} has fewer parameters than its type has"
    if entity.kind == _FACE and entity.integer(1) < 1:
        return f"{entity.place} has no loop"
    if entity.kind == _LOOP:
        at = 1
        for _ in range(entity.integer(0)):
            flaw = _in_list(file, entity, at + 1) or _used_so(file, entity, at)
            if flaw:
                return flaw
            at += 5 + 2 * max(entity.integer(at + 4), 0)
        if at > len(entity.values):
            return f"{entity.place} has fewer parameters than it counts"
    return ""


def _used_so(file: IgesFile, loop: Entity, at: int) -> str:
    """Whether the use of an edge (type 0) or vertex (type 1) by a loop says what such a use can say."""
    kind, listed, count = loop.integer(at), file.at(loop.pointer(at + 1)), loop.integer(at + 4)
    wanted = {0: _EDGES, 1: _VERTICES}.get(kind)
    flags = [loop.integer(at + 3), *(loop.integer(at + 5 + 2 * place) for place in range(max(count, 0)))]
    if listed is None or listed.kind != wanted or count < 0 or not set(flags) <= {0, 1}:
        return f"{loop.place} uses {listed.place if listed else 'nothing'} in a way that makes no sense"
    return ""


def _off_vertex(file: IgesFile, entity: Entity, first: int, at: int) -> str:
    """Whether a straight edge begins and ends elsewhere than at its vertices."""
    curve, listed = file.at(entity.pointer(first)), file.at(entity.pointer(at))
    if curve is None or listed is None or curve.kind != 110 or curve.transform or listed.transform:
        return ""
    own = 0 if at == first + 1 else 3
    index = entity.integer(at + 1)
    place = [listed.real(1 + 3 * (index - 1) + axis) for axis in range(3)]
    gap = math.dist(place, [curve.real(own + axis) for axis in range(3)])
    reach = max(1.0, *(abs(value) for value in place))
    if gap <= _APART * reach:
        return ""
    return f"{curve.place} ends {gap:.3g} off the vertex that {entity.place} gives it"


def _in_list(file: IgesFile, entity: Entity, at: int) -> str:
    """Whether the pointer to a list at a place, and the index after it, lead somewhere."""
    listed = file.at(entity.pointer(at))
    index = entity.integer(at + 1)
    if listed is None or listed.kind not in (_EDGES, _VERTICES):
        return f"{entity.place} names no list where it should"
    step = 5 if listed.kind == _EDGES else 3
    if not 1 <= index <= listed.integer(0) or len(listed.values) < 1 + step * index:
        return f"{entity.place} names place {index} of {listed.place}, which has none such"
    return ""
