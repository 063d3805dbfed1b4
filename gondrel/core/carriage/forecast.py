"""The forecast: item by item, what a target will lose or alter, computed before sending."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from gondrel.core.carriage.aspects import ranked
from gondrel.core.carriage.inventory import Item, Key, inventory
from gondrel.core.model.carries import THINGS, Carries, Fated
from gondrel.core.model.product import Metadatum
from gondrel.core.model.snapshot import Model

__all__ = ["Forecast", "Foreseen", "make_forecast"]


@dataclass(frozen=True, slots=True)
class Foreseen:
    """One item and its foreseen fate: carried, altered or lost, with why when it is not carried.

    Args:
        more: how many things come back beside it, such as pieces of a body or copies of a part.
    """

    item: Item
    fate: str
    why: str = ""
    more: int = 0


@dataclass(frozen=True, slots=True)
class Forecast:
    """Every item of the model with its foreseen fate, and what to know of the target besides."""

    target: str
    entries: tuple[Foreseen, ...]
    remarks: tuple[str, ...] = ()
    unit: str = ""

    def announced(self) -> dict[Key, str]:
        """The items that will not simply be carried, with their fate."""
        return {e.item.key: e.fate for e in self.entries if e.fate != "carried"}

    def beside(self) -> Counter[tuple[str, str]]:
        """How many things come back beside what was sent, by thing and product; in all where it is ""."""
        found: Counter[tuple[str, str]] = Counter()
        for entry in self.entries:
            for product in (*entry.item.products[:1], ""):
                found[entry.item.thing, product] += entry.more
        return found

    def of(self, thing: str) -> list[Foreseen]:
        """The entries of one thing."""
        return [entry for entry in self.entries if entry.item.thing == thing]

    def fate(self, thing: str) -> str:
        """The worst fate foreseen for a thing; empty when the model has none of it."""
        fates = {entry.fate for entry in self.of(thing)}
        return next((f for f in ("lost", "altered", "carried") if f in fates), "")

    def groups(self) -> Iterator[tuple[str, str, str, list[Item]]]:
        """Thing, fate, why and items, in the order of the ledger."""
        for thing in THINGS:
            found: dict[tuple[str, str], list[Item]] = {}
            for entry in self.of(thing):
                found.setdefault((entry.fate, entry.why), []).append(entry.item)
            for (fate, why), items in sorted(found.items(), key=lambda pair: pair[0]):
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
    found_out: dict[Key, tuple[str, str]] = {}
    beside: Counter[Key] = Counter()
    for key, (fate, why, *more) in special:
        found_out[key] = fate, why
        beside[key] += sum(more)
    known = dict(_exceptions(model, carries, title, unit))
    entries = []
    for key, item in inventory(model).items():
        if key in found_out and item.thing in carries.things:
            fate, why = found_out[key]
            entries.append(Foreseen(item, fate, why, beside[key]))
        elif carries.also and item.aspect.startswith(carries.also) and item.thing not in carries.things:
            entries.append(Foreseen(item, "carried"))
        elif item.thing not in carries.things:
            entries.append(Foreseen(item, "lost", carries.why_not(item.thing)))
        elif why := carries.why_without(item.aspect):
            entries.append(Foreseen(item, "lost", why))
        elif key in known:
            fate, why = known[key]
            entries.append(Foreseen(item, fate, why))
        else:
            entries.append(Foreseen(item, "carried"))
    return Forecast(title, tuple(entries), carries.remarks, unit)


def _exceptions(
    model: Model, carries: Carries, title: str, unit: str
) -> Iterator[tuple[Key, tuple[str, str]]]:
    """Items that fare otherwise than their thing does."""
    if not model.unit_told:
        why = f"the file says no unit; {model.units.key} was taken, and {unit} is written"
        yield ("units", "", "length unit"), ("altered", why)
    elif model.units.key != unit:
        why = f"written in {unit}; sizes stay as they are"
        yield ("units", "", "length unit"), ("altered", why)
    for product in model.products:
        for occurrence in product.occurrences:
            if not carries.occurrence_metadata:
                for aspect in ranked(datum.key for datum in occurrence.metadata):
                    why = f"{title} has no place for metadata of an occurrence"
                    yield ("metadata", occurrence.id, aspect), ("lost", why)
        yield from _metadata(product.id, product.metadata, carries, title)
        for occurrence in product.occurrences:
            if carries.occurrence_metadata:
                yield from _metadata(occurrence.id, occurrence.metadata, carries, title)


def _metadata(
    subject: str, metadata: tuple[Metadatum, ...], carries: Carries, title: str
) -> Iterator[tuple[Key, tuple[str, str]]]:
    """Values that do not keep their type or their unit."""
    for aspect, datum in zip(ranked(datum.key for datum in metadata), metadata, strict=True):
        if datum.type not in carries.metadata_kinds:
            why = f"{title} has no {datum.type} value; it is written as text"
            yield ("metadata", subject, aspect), ("altered", why)
        elif datum.measure and not carries.measures:
            why = f"{title} has no measures; the bare number is written"
            yield ("metadata", subject, aspect), ("altered", why)
