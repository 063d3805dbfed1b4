"""A copy of a STEP file that the kernel can be given although some of its records make no sense.

The kernel follows every reference without asking whether it leads anywhere, and dies of some that do not.
In the copy such records say nothing: what only lists them lists them no more, and what needs them says
nothing either. Every record keeps its number and its place, so that all else is traced as ever; what became
of it is told by whoever asked for the copy.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable

import numpy as np

from gondrel.core.formats.step.links import Links
from gondrel.core.formats.step.records import Records

__all__ = ["cleansed", "without"]

_REFERENCE = re.compile(rb"#(\d+)")
_STRING = re.compile(rb"'(?:[^']|'')*'|/\*.*?\*/", re.DOTALL)
_GONE = b"\0"
_KEYWORD = re.compile(rb"^\w+")
_FIRST, _LAST = re.compile(rb"\0\s*,\s*"), re.compile(rb",\s*\0")
_NOTHING = b"DESCRIPTIVE_REPRESENTATION_ITEM('','')"
_LISTS = re.compile(
    rb"[A-Z_0-9]*(?:SHELL|REPRESENTATION|_ASSIGNMENT|_SET|SURFACE_MODEL|CATEGORY|INVISIBILITY|_MODEL)\s*\("
)
"""Records that mean the same without one of those that they list."""

_STRUCTURE = re.compile(rb"(CONTEXT_DEPENDENT_SHAPE_REPRESENTATION|SHAPE_DEFINITION_REPRESENTATION)\s*\(")
_USES = ("NEXT_ASSEMBLY_USAGE_OCCURRENCE", "CONTEXT_DEPENDENT_SHAPE_REPRESENTATION",
         "PRESENTATION_STYLE_BY_CONTEXT")  # fmt: skip


def cleansed(
    records: Records,
    links: Links,
    senseless: Iterable[int],
    doubles: Iterable[int] = (),
    respelt: Iterable[int] = (),
) -> bytes:
    """The file without some records.

    Args:
        senseless: their places in the file, from 0; doubles: places of those whose number another record
            has before them, which nothing refers to any more; respelt: places of those whose keyword
            is to be in capitals.
    """
    owners = links.owners
    order = np.argsort(links.targets, kind="stable")
    ranked = links.targets[order]
    changes = {row: _KEYWORD.sub(lambda m: m[0].upper(), records.raw_at(row), 1) for row in respelt}
    lost: defaultdict[int, set[int]] = defaultdict(set)
    waiting = list(dict.fromkeys(senseless))
    gone: set[int] = set()
    has_structure = True
    while waiting:
        row = waiting.pop()
        if has_structure and _STRUCTURE.match(records.raw_at(row)):
            # A usage without its place makes the kernel fail over all: it gets the parts alone, and what
            # they are put together to is known from the records.
            has_structure = False
            waiting += [records.ordinal(use.number) - 1 for use in records.of(*_USES)]
        if row in gone:
            continue
        gone.add(row)
        changes[row] = _NOTHING
        low, high = np.searchsorted(ranked, (row, row + 1))
        for owner in set(owners[order[low:high]].tolist()) - gone:
            lost[owner].add(records.number_at(row))
            text = without(changes.get(owner, records.raw_at(owner)), lost[owner])
            if text is None:
                waiting.append(owner)
            else:
                changes[owner] = text
    again = list(doubles)
    changes |= dict.fromkeys(again, _NOTHING)
    free = records.highest_number + 1
    return records.with_changes(changes, {row: free + place for place, row in enumerate(again)})


def without(text: bytes, gone: set[int]) -> bytes | None:
    """A record that lists some others no more; None where it needs one of them, or lists nothing then."""
    if not _LISTS.match(text):
        return None
    masked = _STRING.sub(lambda m: b" " * len(m.group()), text)
    data = np.frombuffer(masked, np.uint8)
    depth = np.cumsum((data == ord("(")).astype(np.int64) - (data == ord(")")))
    parts, at = [], 0
    for match in _REFERENCE.finditer(masked):
        if int(match[1]) in gone:
            if depth[match.start()] < 2:
                return None
            parts += [text[at : match.start()], _GONE]
            at = match.end()
    left = b"".join((*parts, text[at:]))
    left = _LAST.sub(b"", _FIRST.sub(b"", left))
    return None if _GONE in left else left
