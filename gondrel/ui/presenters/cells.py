"""Cells of the carriage ledger and the lists behind them, before and after a proof."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from gondrel.core.reports.figures import count_of
from gondrel.core.service.messages import THINGS, Compared, Forecast, Foreseen, Item, Proof

__all__ = [
    "EXPECTED", "Cell", "LedgerGroup", "breakable", "empty_cells", "findings_of", "forecast_cells",
    "held_never", "never_line", "proof_cells", "summary", "weighed",
]  # fmt: skip

TITLES = {
    "bodies": "Bodies",
    "geometry": "Geometry",
    "units": "Units",
    "structure": "Structure",
    "placement": "Placement",
    "names": "Names",
    "numbers": "Numbers",
    "revisions": "Revisions",
    "colours": "Colours",
    "layers": "Layers",
    "materials": "Materials",
    "metadata": "Metadata",
    "validation": "Figures",
    "remainder": "Remainder",
}
"""How each thing is headed on screen. Validation properties are figures to an engineer."""

EXPECTED = " as announced"
"""What stands behind a verdict that the forecast had announced: nobody has to do anything."""


def weighed(verdict: str, announced: bool | None) -> str:
    """A verdict with what it weighs: losses and alterations that were announced are quiet."""
    return verdict + EXPECTED if announced and verdict in ("lost", "altered") else verdict


@dataclass(frozen=True, slots=True)
class Cell:
    """One cell: title, before, after, and the verdict or foreseen fate."""

    thing: str
    title: str
    before: str
    after: str
    verdict: str
    is_quiet: bool
    is_forecast: bool
    note: str = ""


@dataclass(frozen=True, slots=True)
class LedgerGroup:
    """One line behind a cell: what, where, and whether it was announced."""

    thing: str
    verdict: str
    title: str
    text: str
    note: str
    products: frozenset[str]
    returned: frozenset[str]
    lines: tuple[str, ...] = ()


def proof_cells(proof: Proof) -> list[Cell]:
    """The ledger of a proof."""
    cells = []
    for entry in proof.ledger.entries:
        quiet = entry.is_empty
        before, after = ("", "") if quiet else (entry.before, entry.after)
        troubled = sum(c.verdict in ("lost", "altered") for c in entry.items)
        note = "none here" if quiet else ""
        if troubled and entry.announced is False:
            note = "not announced"
        if entry.thing == "geometry":
            after = after.removesuffix(" mm")  # the heading of the figures says the unit
        cells.append(
            Cell(
                entry.thing,
                TITLES[entry.thing],
                before,
                after,
                weighed(entry.verdict, entry.announced),
                quiet,
                False,
                note,
            )
        )
    return cells


def empty_cells() -> list[Cell]:
    """The cells while nothing is open."""
    return [Cell(thing, TITLES[thing], "", "", "none", True, False, "nothing yet") for thing in THINGS]


def forecast_cells(forecast: Forecast, indifferent: Collection[str] = ()) -> list[Cell]:
    """The same cells before a send: what there is and what is foreseen.

    Args:
        indifferent: things that do not matter to the recipient; what happens to them is told quietly.
    """
    cells = []
    for thing in THINGS:
        entries = forecast.of(thing)
        fate = weighed(forecast.fate(thing), thing in indifferent)
        before, after = forecast.counts(thing)
        if thing == "units" and entries:
            said = entries[0].item.text
            cells.append(Cell(thing, TITLES[thing], said, forecast.unit or said, fate, False, True))
            continue
        quiet = not entries
        figures = ("", "") if quiet else (str(before), str(after))
        note = "none here" if quiet else ""
        cells.append(Cell(thing, TITLES[thing], *figures, fate or "none", quiet, True, note))
    return cells


def summary(proof: Proof) -> tuple[str, str]:
    """A verdict and a sentence for the head of the Prove sheet."""
    lost = [e for e in proof.ledger.entries if e.verdict == "lost"]
    altered = [e for e in proof.ledger.entries if e.verdict == "altered"]
    if proof.unannounced:
        count = len(proof.unannounced)
        return "lost", f"{count} {'change' if count == 1 else 'changes'} not announced"
    if lost:
        things = count_of(len(lost), "thing")
        return f"lost{EXPECTED}", f"{things} lost, as announced"
    if altered:
        return f"altered{EXPECTED}", f"{count_of(len(altered), 'thing')} altered, as announced"
    return "carried", "Everything came across"


def held_never(proof: Proof) -> dict[str, int]:
    """The things of which nothing at all came back, as announced, since the target has no place for them;
    with how much of each there was."""
    counts = {}
    for entry in proof.ledger.entries:
        sent = [c for c in entry.items if c.verdict != "added"]
        if sent and all(c.verdict == "lost" and c.announced for c in sent):
            counts[entry.thing] = sum(c.item.weight for c in sent)
    return counts


def never_line(proof: Proof) -> str:
    """What the target never holds, in one line; empty when it holds some of everything."""
    parts = [
        f"{TITLES[thing].lower()} ({count_of(count, 'record' if thing == 'remainder' else 'item')})"
        for thing, count in held_never(proof).items()
    ]
    return ", ".join(parts)


def findings_of(proof: Proof | None, forecast: Forecast | None, thing: str = "") -> list[LedgerGroup]:
    """What did not, or will not, simply come across; of one thing everything, else only losses."""
    gathered = []
    if proof is not None:
        never = {} if thing else held_never(proof)
        for entry in proof.ledger.entries:
            if (thing and entry.thing != thing) or entry.thing in never:
                continue
            groups: dict[tuple[str, str], list[Compared]] = {}
            for c in entry.items:
                if c.verdict in ("lost", "altered", "unproved") or thing:
                    groups.setdefault((c.verdict, _aspect(entry.thing, c)), []).append(c)
            gathered += [_proved(entry.thing, key, items) for key, items in groups.items()]
    elif forecast is not None:
        for name, fate, why, items in forecast.groups():
            if (thing and name != thing) or (not thing and fate == "carried"):
                continue
            count = sum(item.weight for item in items)
            if name == "remainder":
                gathered += _foreseen_remainder(fate, why, items)
                continue
            gathered.append(
                LedgerGroup(
                    name,
                    fate,
                    TITLES[name],
                    f"{count} of {_total(forecast.of(name))} {fate}",
                    why or "the target holds it",
                    frozenset(i.products[0] for i in items if i.products),
                    frozenset(),
                    tuple(f"{i.path}: {i.text}" for i in items),
                )
            )
    order = {"lost": 0, "altered": 1, "unproved": 2, "added": 3, f"lost{EXPECTED}": 4,
             f"altered{EXPECTED}": 5, "carried": 6}  # fmt: skip
    return sorted(gathered, key=lambda f: order.get(f.verdict, 5))


def _aspect(thing: str, compared: Compared) -> str:
    """What items are gathered by: metadata and layers as a whole, the remainder by kind, the rest by
    aspect."""
    if thing == "remainder":
        return _kind_of(compared.item)
    return "" if thing in ("metadata", "layers") else compared.item.what


def _foreseen_remainder(fate: str, why: str, items: list[Item]) -> list[LedgerGroup]:
    """What will be lost of the remainder, by kind."""
    kinds: dict[str, list[Item]] = {}
    for item in items:
        kinds.setdefault(_kind_of(item), []).append(item)
    groups = []
    for kind, of_kind in kinds.items():
        text = _types([item.text for item in of_kind])
        lines = tuple(breakable(f"{item.text}: {item.path}") for item in of_kind)
        title = f"Remainder: {kind}"
        groups.append(LedgerGroup("remainder", fate, title, text, why, frozenset(), frozenset(), lines))
    return groups


def _remaining(verdict: str, kind: str, items: list[Compared]) -> LedgerGroup:
    """Records of one kind that no thing covers, by their types."""
    count = sum(c.item.weight for c in items)
    text = f"{count_of(count, 'record')}: {_types([c.item.text or c.after for c in items])}"
    said = {True: "announced", False: "not announced", None: ""}[items[0].announced]
    lines = tuple(breakable(f"{c.item.text or c.after}: {c.item.path}") for c in items)
    weight = weighed(verdict, items[0].announced)
    title = kind[:1].upper() + kind[1:]
    return LedgerGroup("remainder", weight, title, text, said, frozenset(), frozenset(), lines)


def _kind_of(item: Item) -> str:
    """The kind of an item of the remainder, which stands before its type."""
    return item.aspect.rpartition(": ")[0]


def _types(texts: list[str]) -> str:
    """The first types of a kind, and how many more there are."""
    more = f" and {len(texts) - _TYPES} more types" if len(texts) > _TYPES else ""
    return ", ".join(map(breakable, texts[:_TYPES])) + more


_TYPES = 4
"""Types of records that are named on a card before it is opened."""


def breakable(text: str) -> str:
    """Long words of records with places where they may be broken."""
    return text.replace("_", "_\u200b").replace("+", "+\u200b")


def _total(entries: list[Foreseen]) -> int:
    return sum(e.item.weight for e in entries)


def _proved(thing: str, key: tuple[str, str], items: list[Compared]) -> LedgerGroup:
    verdict, aspect = key
    first = items[0]
    if thing == "remainder":
        return _remaining(verdict, aspect, items)
    details = {c.detail for c in items}
    detail = details.pop() if len(details) == 1 else ""
    if len(items) == 1:
        text = first.item.path
        if first.item.text and verdict != "carried":
            text += f": {first.item.text}" + (f" to {first.after}" if first.after else "")
    else:
        text = f"{len(items)} items: {first.item.path} and others"
    said = {True: "announced", False: "not announced", None: ""}[first.announced]
    note = ", ".join(p for p in (detail, said if verdict in ("lost", "altered") else "") if p)
    lines = tuple(f"{c.item.path}: {c.item.text or 'nothing'} > {c.after or 'nothing'}" for c in items)
    return LedgerGroup(
        thing,
        weighed(verdict, first.announced),
        f"{TITLES[thing]}: {aspect}" if aspect else TITLES[thing],
        text,
        note,
        frozenset(c.item.products[0] for c in items if c.item.products),
        frozenset(c.returned_products[0] for c in items if c.returned_products),
        lines,
    )
