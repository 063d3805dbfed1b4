"""The forecast: item by item, what a target will lose or alter, computed before sending."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Any

from gondrel.core.carriage.inventory import Listed, listed
from gondrel.core.carriage.items import Item, Key
from gondrel.core.model.carries import THINGS, Carries, Fated
from gondrel.core.model.columns import columns_of, from_columns
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Fate, gravest

__all__ = ["Forecast", "Foreseen", "make_forecast"]


@dataclass(frozen=True, slots=True)
class Foreseen:
    """One item and its foreseen fate: carried, altered or lost, with why when it is not carried.

    Args:
        more: how many things come back beside it, such as pieces of a body or copies of a part.
    """

    item: Item
    fate: Fate
    why: str = ""
    more: int = 0


@dataclass(frozen=True)
class Forecast:
    """Every item of the model with its foreseen fate, and what to know of the target besides."""

    target: str
    entries: tuple[Foreseen, ...]
    remarks: tuple[str, ...] = ()
    unit: str = ""

    def __getstate__(self) -> dict[str, Any]:
        """The fields only, as another process gets them."""
        plain = {f.name: getattr(self, f.name) for f in fields(self)}
        items = columns_of(Item, [entry.item for entry in self.entries])
        return {**plain, "entries": (items, columns_of(Foreseen, self.entries)[1:])}

    def __setstate__(self, state: dict[str, Any]) -> None:
        items, others = state["entries"]
        entries = from_columns(Foreseen, (from_columns(Item, items), *others))
        self.__dict__.update({**state, "entries": entries})

    @cached_property
    def _by_thing(self) -> dict[str, list[Foreseen]]:
        """The entries by thing, sorted out once: there may be hundreds of thousands."""
        sorted_out: dict[str, list[Foreseen]] = {}
        for entry in self.entries:
            sorted_out.setdefault(entry.item.thing, []).append(entry)
        return sorted_out

    @cached_property
    def _counts(self) -> dict[str, tuple[int, int]]:
        return {
            thing: (
                sum(e.item.weight for e in of),
                sum(e.item.weight for e in of if e.fate is not Fate.LOST),
            )
            for thing, of in self._by_thing.items()
        }

    def counts(self, thing: str) -> tuple[int, int]:
        """How many of a thing there are, and how many of them come across, altered or not."""
        return self._counts.get(thing, (0, 0))

    @cached_property
    def _fates(self) -> dict[str, str]:
        return {thing: gravest(e.fate for e in of) or "" for thing, of in self._by_thing.items()}

    def announced(self) -> dict[Key, Fate]:
        """The items that will not simply be carried, with their fate."""
        return {e.item.key: e.fate for e in self.entries if e.fate is not Fate.CARRIED}

    def surplus(self) -> Counter[tuple[str, str]]:
        """How many things come back beside what was sent, by thing and product; in all where it is ""."""
        counts: Counter[tuple[str, str]] = Counter()
        for entry in self.entries:
            for product in (*entry.item.products[:1], ""):
                counts[entry.item.thing, product] += entry.more
        return counts

    def of(self, thing: str) -> list[Foreseen]:
        """The entries of one thing."""
        return self._by_thing.get(thing, [])

    def fate(self, thing: str) -> str:
        """The worst fate foreseen for a thing; empty when the model has none of it."""
        return self._fates.get(thing, "")

    def work_out(self, turn: Callable[[], None] = lambda: None) -> None:
        """Sort the entries out now rather than when they are first looked at.

        Args:
            turn: called before each part of the work.
        """
        for known in ("_by_thing", "_groups", "_fates", "_counts"):
            turn()
            getattr(self, known)

    def groups(self) -> Iterator[tuple[str, Fate, str, list[Item]]]:
        """Thing, fate, why and items, in the order of the ledger."""
        yield from self._groups

    @cached_property
    def _groups(self) -> list[tuple[str, Fate, str, list[Item]]]:
        return list(self._grouped())

    def _grouped(self) -> Iterator[tuple[str, Fate, str, list[Item]]]:
        for thing in THINGS:
            groups: dict[tuple[Fate, str], list[Item]] = {}
            for entry in self.of(thing):
                groups.setdefault((entry.fate, entry.why), []).append(entry.item)
            for (fate, why), items in sorted(groups.items(), key=lambda pair: pair[0]):
                yield thing, fate, why, items


def make_forecast(
    model: Model,
    carries: Carries,
    *,
    title: str,
    unit: str,
    special: Iterable[Fated] = (),
) -> Forecast:
    """What becomes of every item of a model when it is sent to a target.

    Args:
        title: the target's name for people; unit: key of the length unit it is written in.
        special: fate and why of single items, found out by the format itself.
    """
    foreseen: dict[Key, tuple[Fate, str]] = {}
    surplus: Counter[Key] = Counter()
    for key, (fate, why, *more) in special:
        foreseen[key] = fate, why
        surplus[key] += sum(more)
    entries = []
    for key, each in listed(model).items():
        item, is_held = each.item, carries.holds(each.item.thing, each.item.aspect)
        if key in foreseen and is_held:
            entries.append(Foreseen(item, *foreseen[key], surplus[key]))
            continue
        fate, why = _by_capabilities(each, carries, title, unit)
        entries.append(Foreseen(item, fate, why))
    return Forecast(title, tuple(entries), carries.remarks, unit)


def _by_capabilities(each: Listed, carries: Carries, title: str, unit: str) -> tuple[Fate, str]:
    """Fate and why of an item by what the target holds of its thing, its aspect and its kind of value."""
    item = each.item
    if item.thing not in carries.things:
        if carries.holds(item.thing, item.aspect):
            return Fate.CARRIED, ""
        return Fate.LOST, carries.why_not(item.thing)
    if why := carries.why_without(item.aspect):
        return Fate.LOST, why
    if each.aspect.foresee is not None:
        known = each.aspect.foresee(each.statement, each.subject, carries, title, unit)
        if known is not None:
            return known
    return Fate.CARRIED, ""
