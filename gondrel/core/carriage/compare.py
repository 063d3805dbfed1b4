"""Small comparisons that the proof is made of."""

from __future__ import annotations

import math
from collections.abc import Sequence

from gondrel.core.carriage.appearance import same_look
from gondrel.core.carriage.items import Item
from gondrel.core.carriage.ledger import Compared
from gondrel.core.carriage.words import datum_text, material_text
from gondrel.core.model.body import BodyFacts, Rgba
from gondrel.core.model.product import Material, Metadatum
from gondrel.core.model.verdicts import Verdict

__all__ = [
    "compare_colour",
    "compare_material",
    "compare_metadata",
    "compare_text",
    "lost",
    "scale_between",
]

_ONE_SCALE = 1e-4
_TRUE_SIZE = 1e-3
_AS_WRITTEN = 1e-9
"""Share by which a real may differ for having been written in another unit."""


def lost(item: Item, detail: str) -> Compared:
    """The verdict on an item that did not come back."""
    return Compared(item, Verdict.LOST, "", detail)


def compare_text(item: Item, after: str, ids: tuple[str, ...]) -> Compared:
    """Carried when equal, lost when nothing came back, altered otherwise."""
    if after == item.text:
        return Compared(item, Verdict.CARRIED, after, "", 1, ids)
    if not after:
        return Compared(item, Verdict.LOST, "", "nothing came back", 0, ids)
    return Compared(item, Verdict.ALTERED, after, "", 1, ids)


def compare_colour(item: Item, before: Rgba | None, after: Rgba | None, ids: tuple[str, ...]) -> Compared:
    """Colours to eight bits; transparency to a thousandth."""
    text = after.label if after is not None else ""
    if same_look(before, after):
        return Compared(item, Verdict.CARRIED, item.text, "", 1, ids)
    if after is None:
        return Compared(item, Verdict.LOST, "", "nothing came back", 0, ids)
    detail = ""
    if before is not None and before.hex == after.hex:
        detail = f"transparency {1 - before.alpha:.4g} became {1 - after.alpha:.4g}"
    return Compared(item, Verdict.ALTERED, text, detail, 1, ids)


def compare_material(
    item: Item, before: Material | None, after: Material | None, ids: tuple[str, ...]
) -> Compared:
    """Name, description and density of a material; reals as written."""
    if after is None or before is None:
        return Compared(item, Verdict.LOST, "", "nothing came back", 0, ids)
    differs = [
        f"{what} {was!r} became {now!r}"
        for what, was, now in (
            ("name", before.name, after.name),
            ("description", before.description, after.description),
        )
        if was != now
    ]
    was, now = (None if m.density is None else float(m.density) for m in (before, after))
    if was is None or now is None:
        differs += [f"density {was} became {now}"] if was is not now else []
    elif abs(was - now) > _AS_WRITTEN * abs(was):
        differs.append(f"density {was:.9g} became {now:.9g}")
    return Compared(
        item,
        Verdict.ALTERED if differs else Verdict.CARRIED,
        material_text(after),
        "; ".join(differs),
        1,
        ids,
    )


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
        return Compared(item, Verdict.LOST, "", "nothing came back", 0, ids)
    after = same_key[int(rank) - 1]
    text = datum_text(after)
    kinds = [(datum.kind, datum.type, datum.unit) for datum in (before, after)]
    if kinds[0] == kinds[1] and after.value == before.value:
        return Compared(item, Verdict.CARRIED, text, "", 1, ids)
    if after.kind != before.kind or after.type != before.type:
        detail = f"{before.kind} became {after.kind}"
    else:
        detail = "value differs" if after.unit == before.unit else f"{before.unit} became {after.unit}"
    return Compared(item, Verdict.ALTERED, text, detail, 1, ids)


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
