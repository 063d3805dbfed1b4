"""The two sides of a proof, and how what is said of their items is compared."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

from gondrel.core.carriage.appearance import Spots
from gondrel.core.carriage.aspects import Said
from gondrel.core.carriage.compare import compare_text
from gondrel.core.carriage.inventory import Item
from gondrel.core.carriage.ledger import Compared
from gondrel.core.carriage.matching import Matching
from gondrel.core.kernel.measure.deviation import Deviation
from gondrel.core.model.body import Body, BodyFacts
from gondrel.core.model.limits import Limits
from gondrel.core.model.mass import Totals
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["Measure", "Sides", "compare_said", "is_said", "lost"]

Measure = Callable[[str, str], Deviation]


@dataclass(slots=True)
class Sides:
    """What was meant and what came back, matched; the largest differences found so far."""

    meant: Model
    returned: Model
    facts: Mapping[str, BodyFacts]
    matching: Matching
    limits: Limits
    measure: Measure
    spots: Spots | None = None
    edge_spots: Spots | None = None
    deviation: float | None = None
    volume_error: float | None = None
    shift: float | None = None
    totals: Mapping[str, Totals] = field(default_factory=dict)
    bodies: dict[str, tuple[Product, Body]] = field(default_factory=dict)
    uses: dict[str, tuple[Product, Occurrence]] = field(default_factory=dict)


def lost(item: Item, detail: str) -> Compared:
    """The verdict on an item that did not come back."""
    return Compared(item, "lost", "", detail)


def is_said(item: Item, said: Iterable[Said]) -> bool:
    """Whether an item is one of the aspects that are compared by their texts."""
    return any((each.thing, each.aspect) == (item.thing, item.aspect) for each in said)


def compare_said(item: Item, theirs: Iterable[Said], ids: tuple[str, ...]) -> Compared:
    """The verdict on such an aspect."""
    after = next((s.text for s in theirs if (s.thing, s.aspect) == (item.thing, item.aspect)), "")
    return compare_text(item, after, ids)
