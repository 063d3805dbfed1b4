"""The carriage ledger: each thing with before, after, verdict and the items behind it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from gondrel.core.carriage.items import Item, Key
from gondrel.core.carriage.other import OtherLine
from gondrel.core.carriage.words import is_of_its_own
from gondrel.core.model.carries import THINGS
from gondrel.core.model.verdicts import Fate, Verdict, worst

__all__ = ["Compared", "Entry", "Ledger", "Proof", "make_ledger"]


@dataclass(frozen=True, slots=True)
class Compared:
    """One item after comparison.

    Args:
        returned_products: ids of the products concerned in the returned model.
        after_weight: how many countable things were found again.
    """

    item: Item
    verdict: Verdict
    after: str = ""
    detail: str = ""
    after_weight: int = 0
    returned_products: tuple[str, ...] = ()
    announced: bool | None = None


@dataclass(frozen=True, slots=True)
class Entry:
    """One cell of the ledger."""

    thing: str
    before: str
    after: str
    verdict: Verdict
    announced: bool | None
    items: tuple[Compared, ...]

    @property
    def is_empty(self) -> bool:
        """Whether neither side has anything of this thing."""
        return not self.items


@dataclass(frozen=True, slots=True)
class Ledger:
    """All cells in their order."""

    entries: tuple[Entry, ...]

    def of(self, thing: str) -> Entry:
        """One cell. Raises KeyError for a thing there is not."""
        for entry in self.entries:
            if entry.thing == thing:
                return entry
        raise KeyError(thing)


@dataclass(frozen=True, slots=True)
class Proof:
    """The outcome of a comparison.

    Args:
        max_deviation: mm, the largest distance found between received and returned surfaces.
        max_volume_error: relative.
        max_shift: mm, the largest displacement of an occurrence's origin. Each is None where nothing of it
            was measured.
        unannounced: losses and alterations that no forecast announced.
        false_alarms: announced losses and alterations that did not happen.
        method: how the deviation was measured and how accurately.
        pairs: ids of each meant body and the returned body it was matched with.
        other: the file by another reader against our reading of it, thing by thing.
    """

    verdict: Verdict
    ledger: Ledger
    max_deviation: float | None
    max_volume_error: float | None
    max_shift: float | None
    unannounced: tuple[Compared, ...]
    false_alarms: tuple[Item, ...]
    method: str
    witness: tuple[str, ...] = field(default=())
    pairs: tuple[tuple[str, str], ...] = field(default=())
    other: tuple[OtherLine, ...] = field(default=())


def make_ledger(
    compared: list[Compared],
    announced: Mapping[Key, Fate] | None,
    units: tuple[str, str],
    deviation: float | None,
) -> Ledger:
    """Sort compared items into cells, marking what was announced."""
    by_thing: dict[str, list[Compared]] = {thing: [] for thing in THINGS}
    for each in compared:
        by_thing[each.item.thing].append(each)
    entries = []
    for thing in THINGS:
        items = by_thing[thing]
        verdict = worst(c.verdict for c in items)
        troubled = [c for c in items if c.verdict.is_harm]
        said: bool | None = None
        if announced is not None and troubled:
            said = all(c.announced for c in troubled)
        elif announced is not None:
            said = True
        before, after = _figures(thing, items, units, deviation)
        entries.append(Entry(thing, before, after, verdict, said, tuple(items)))
    return Ledger(tuple(entries))


def _figures(
    thing: str, items: list[Compared], units: tuple[str, str], deviation: float | None
) -> tuple[str, str]:
    if thing == "units":
        return units
    before = sum(c.item.weight for c in items if c.verdict is not Verdict.ADDED)
    # What a protocol demands of every product is no more of what was sent.
    mine = [c for c in items if c.verdict is not Verdict.ADDED or not is_of_its_own(c.item.aspect)]
    after = sum(c.after_weight for c in mine)
    if thing == "geometry" and items:
        return str(before), "not measured" if deviation is None else f"{deviation:.4f} mm"
    return str(before), str(after)
