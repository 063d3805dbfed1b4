"""A large assembly for the kernel: a file of its parts alone, without any usage.

The kernel takes a millisecond for each component and most of the file for where they stand, and the records
say the same in a fraction of that. Such a file is made only of an assembly that is put together plainly;
all others the kernel gets whole.

Source: ISO 10303-44 (next_assembly_usage_occurrence), -41 (product_definition_shape), -43
(context_dependent_shape_representation, item_defined_transformation).
"""

from __future__ import annotations

import mmap
import re
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from gondrel.core.formats.step.cleansed import without
from gondrel.core.formats.step.graph import Graph
from gondrel.core.formats.step.links import Flags, Ints, Links
from gondrel.core.formats.step.listed import Matrix, is_rigid
from gondrel.core.formats.step.records import Records

__all__ = ["PartsAlone", "has_many_usages", "is_plain", "write_parts"]

FROM_USAGES, TO_A_PRODUCT = 300, 5
"""From how many usages on the kernel gets the parts alone, in all and to each product: it takes longer over
two thousand parts that nothing holds together than over their assembly."""

_USAGE = "NEXT_ASSEMBLY_USAGE_OCCURRENCE"
_USAGES, _PRODUCTS = re.compile(rb"NEXT_ASSEMBLY_USAGE_OCC"), re.compile(rb"PRODUCT_DEFINITION_FORMATION")
_FRAME = "AXIS2_PLACEMENT_3D"
_IN_PLACE = ("PRESENTATION_STYLE_BY_CONTEXT", "CONTEXT_DEPENDENT_OVER_RIDING_STYLED_ITEM")
"""Looks that a component has in one place alone: the kernel has to see what they are about."""

_OF_USAGES = re.compile(
    r"PRODUCT_DEFINITION_SHAPE|CONTEXT_DEPENDENT_SHAPE_REPRESENTATION|CONTEXT_DEPENDENT_INVISIBILITY|"
    r"PROPERTY_DEFINITION|PROPERTY_DEFINITION_REPRESENTATION|GENERAL_PROPERTY_ASSOCIATION|INVISIBILITY|"
    r"[A-Z_]+_ASSIGNMENT|[A-Z]+_ATTRIBUTE"
)
"""What may be said of a usage or of its shape without changing any part."""

_MOVED = "REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION"
_FALLING = (
    lambda name: _MOVED in name.split("+"),
    lambda name: name == "ITEM_DEFINED_TRANSFORMATION",
    lambda name: name == _FRAME,
    lambda name: name in ("CARTESIAN_POINT", "DIRECTION"),
)
"""Kinds that go once nothing that stays refers to them, from above to beneath."""


@dataclass(frozen=True, slots=True)
class PartsAlone:
    """A file of parts.

    Args:
        path: where it stands; ordinals: for each of its records the place of it in the whole file, from 1.
    """

    path: str
    ordinals: NDArray[np.int64]


def has_many_usages(path: str) -> bool:
    """Whether a file has so many usages that the parts are worth a file of their own, by a look at its
    text."""
    with Path(path).open("rb") as stream, mmap.mmap(stream.fileno(), 0, access=mmap.ACCESS_READ) as data:
        usages = sum(1 for _ in _USAGES.finditer(data))
        products = sum(1 for _ in _PRODUCTS.finditer(data)) if usages >= FROM_USAGES else 0
    return usages >= max(FROM_USAGES, TO_A_PRODUCT * products)


def is_plain(records: Records, graph: Graph, places: dict[int, Matrix]) -> bool:
    """Whether a file's records say all of how it is put together: every usage is of its simple kind, is
    placed once, neither scaled nor mirrored, and has no looks of its own.

    Args:
        places: the placement of each usage by its record.
    """
    if records.count(*_IN_PLACE) or len(graph.uses) != records.count(_USAGE):
        return False
    if records.count("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION") != len(graph.uses):
        return False
    for use in graph.uses.values():
        matrix = places.get(use.record)
        if matrix is None or use.quantity is not None or not np.isfinite(matrix).all():
            return False
        if use.child not in graph.products or use.parent not in graph.products:
            return False
    return all(map(is_rigid, {matrix[:3, :3].tobytes(): matrix for matrix in places.values()}.values()))


def write_parts(records: Records, links: Links, path: Path) -> PartsAlone | None:
    """Write the parts of a plain assembly; None where something else is said of its usages.

    Raises:
        OSError: when it can't be written.
    """
    names, which = records.keywords()
    gone = _of_usages(links, names, which)
    if gone is None:
        return None
    owners, there = links.owners, links.targets >= 0
    listing = _lists_of_frames(links, names, which)
    for falls in _FALLING:
        kind = np.array([falls(name) for name in names], bool)[which]
        named = np.zeros(len(kind), bool)
        named[links.targets[there]] = True
        stays = np.zeros(len(kind), bool)
        stays[links.targets[there & ~gone[owners] & ~listing]] = True
        gone |= kind & named & ~stays
    changes = {}
    for owner in np.unique(owners[links.leading_to(gone) & ~gone[owners]]).tolist():
        numbers = {records.number_at(row) for row in links.of(owner) if gone[row]}
        text = without(records.raw_at(owner), numbers)
        if text is None:
            return None
        changes[owner] = text
    path.write_bytes(records.only(~gone, changes))
    return PartsAlone(str(path), np.flatnonzero(~gone) + 1)


def _of_usages(links: Links, names: list[str], which: Ints) -> Flags | None:
    """All usages and what is said of them; None where that may be about a part too."""
    allowed = np.array([bool(_OF_USAGES.fullmatch(name)) for name in names], bool)[which]
    gone = np.array([name == _USAGE for name in names], bool)[which]
    owners = links.owners
    while True:
        rows = np.unique(owners[links.leading_to(gone) & ~gone[owners]])
        if not len(rows):
            return gone
        if not allowed[rows].all():
            return None
        gone[rows] = True


def _lists_of_frames(links: Links, names: list[str], which: Ints) -> Flags:
    """References from representations that list nothing but placements, which are those of components; the
    first of each is none of these, since no representation may be empty."""
    owners = links.owners
    shown = np.array([name == "SHAPE_REPRESENTATION" for name in names], bool)[which]
    frame = np.array([name == _FRAME for name in names], bool)[which]
    to_frame = links.leading_to(frame) & shown[owners]
    others = np.bincount(owners[shown[owners] & ~to_frame], minlength=len(which))
    pure: Flags = np.asarray(to_frame & (others[owners] == 1), bool)
    first = np.unique(owners[pure], return_index=True)[1]
    pure[np.flatnonzero(pure)[first]] = False
    return pure
