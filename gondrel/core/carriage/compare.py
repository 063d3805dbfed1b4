"""Small comparisons that the proof is made of."""

from __future__ import annotations

import math
from collections.abc import Sequence

from gondrel.core.carriage.inventory import Item
from gondrel.core.carriage.ledger import Compared
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.product import Metadatum

__all__ = ["compare_metadata", "compare_text", "scale_between"]

_ONE_SCALE = 1e-4
_TRUE_SIZE = 1e-3


def compare_text(item: Item, after: str, ids: tuple[str, ...]) -> Compared:
    """Carried when equal, lost when nothing came back, altered otherwise."""
    if after == item.text:
        return Compared(item, "carried", after, "", 1, ids)
    if not after:
        return Compared(item, "lost", "", "nothing came back", 0, ids)
    return Compared(item, "altered", after, "", 1, ids)


def compare_metadata(
    item: Item,
    ours: Sequence[Metadatum],
    theirs: Sequence[Metadatum],
    ids: tuple[str, ...],
) -> Compared:
    """Compare one datum with the one of the same key and rank; the aspect is key#rank."""
    key, _, rank = item.aspect.rpartition("#")
    before = [m for m in ours if m.key == key][int(rank) - 1]
    same_key = [m for m in theirs if m.key == key]
    if len(same_key) < int(rank):
        return Compared(item, "lost", "", "nothing came back", 0, ids)
    after = same_key[int(rank) - 1]
    text = f"{after.value} ({after.kind})"
    if after.kind == before.kind and after.value == before.value:
        return Compared(item, "carried", text, "", 1, ids)
    detail = f"{before.kind} became {after.kind}" if after.kind != before.kind else "value differs"
    return Compared(item, "altered", text, detail, 1, ids)


def scale_between(pairs: Sequence[tuple[BodyFacts, BodyFacts]]) -> float | None:
    """The one factor by which all bodies differ in length; None when there is none or it is 1.

    Boxes count as areas do, so that a body that lost a face is not taken for a smaller one.
    """
    factors = []
    for one, other in pairs:
        sizes = [math.dist(facts.bbox[:3], facts.bbox[3:]) for facts in (one, other)]
        if min(sizes) > 0:
            factors.append(sizes[1] / sizes[0])
        if one.area > 0 and other.area > 0:
            factors.append((other.area / one.area) ** 0.5)
        elif one.length > 0 and other.length > 0:
            factors.append(other.length / one.length)
    if not factors:
        return None
    low, high = min(factors), max(factors)
    if high / low - 1 > _ONE_SCALE or abs(low - 1) < _TRUE_SIZE:
        return None
    return math.sqrt(low * high)
