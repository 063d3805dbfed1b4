"""What came of a receive, part by part, and notes grouped so that many equal ones are one line."""

from __future__ import annotations

import csv
import io
import re
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gondrel.core.errors import GondrelError
from gondrel.core.model import Model, Note
from gondrel.core.model.census import Census
from gondrel.core.model.notes import GRAVE
from gondrel.core.reports.figures import count_of
from gondrel.core.service.messages import Change, Difference
from gondrel.ui.presenters.cells import LedgerGroup, breakable

__all__ = [
    "PartOutcome",
    "change_cards",
    "far_away",
    "is_complete",
    "note_cards",
    "outcome_csv",
    "part_outcomes",
    "remainder_card",
    "remainder_words",
]

_QUIET = {
    "surfaces-joined",
    "mesh-became-solid",
    "taken-by-settings",
    "made-otherwise",
    "faces-read-again",
    "loops-mended",
    "body-made-alone",
}
"""Notes on what was done as it should be; they are told without a warning."""

_FAR = 50.0
"""How many times the spread of all the rest something lies away before it is called far."""


@dataclass(frozen=True, slots=True)
class PartOutcome:
    """One part: clean, or what is to be told of it."""

    product: str
    label: str
    bodies: int
    notes: tuple[Note, ...]

    @property
    def is_clean(self) -> bool:
        """Whether nothing went wrong with it."""
        return not [n for n in self.notes if n.code not in _QUIET]


def part_outcomes(model: Model, problems: Mapping[str, GondrelError]) -> list[PartOutcome]:
    """Every product with bodies or with something to tell, in the order of the model."""
    by_label: dict[str, list[Note]] = defaultdict(list)
    for note in model.notes:
        by_label[note.where.partition(" #")[0]].append(note)
    outcomes = []
    for product in model.products:
        notes = list(by_label.get(product.label, ()))
        for body in product.bodies:
            if body.name and body.name != product.label:
                notes += by_label.get(body.name, ())
            if body.blob in problems:
                notes.append(Note("body-not-shown", str(problems[body.blob]), product.label))
        if product.bodies or notes:
            unique = tuple(dict.fromkeys(notes))
            outcomes.append(PartOutcome(product.id, product.label, len(product.bodies), unique))
    return outcomes


def is_complete(model: Model, parts: Sequence[PartOutcome]) -> bool:
    """Whether every part is clean and nothing grave is told of what belongs to none, as of a body that
    was not in the file."""
    is_clean = all(part.is_clean for part in parts) and not any(n.code in GRAVE for n in model.notes)
    return is_clean and not model.unloaded


def outcome_csv(model: Model, problems: Mapping[str, GondrelError]) -> str:
    """The outcome of every part and every other note as comma-separated lines."""
    stream = io.StringIO()
    writer = csv.writer(stream)
    writer.writerow(("part", "bodies", "outcome", "code", "what", "where"))
    written: set[Note] = set()
    for part in part_outcomes(model, problems):
        if part.is_clean and not part.notes:
            writer.writerow((part.label, part.bodies, "clean", "", "", ""))
        for note in part.notes:
            written.add(note)
            state = "clean" if note.code in _QUIET else "trouble" if note.code in GRAVE else "note"
            writer.writerow((part.label, part.bodies, state, note.code, note.text, note.where))
    for note in model.notes:
        if note not in written:
            writer.writerow(("", "", "note", note.code, note.text, note.where))
    return stream.getvalue()


def remainder_card(census: Census) -> LedgerGroup | None:
    """What of the file was not read, by kind; None when everything was."""
    kinds = census.kinds()
    if not kinds:
        return None
    named = ", ".join(list(kinds)[:_MOST_KINDS]) + (", ..." if len(kinds) > _MOST_KINDS else "")
    lines = []
    for kind, several in kinds.items():
        types = ", ".join(breakable(f"{each.count} {each.type}") for each in several)
        where = tuple(dict.fromkeys(w for each in several for w in each.where))
        lines.append(f"{kind}: {types}" + (f" (on {', '.join(where[:3])})" if where else ""))
    if census.remainder:
        head = f"{census.remainder:,} of {census.all:,} {census.noun} stay behind: {named}"
    else:
        head = f"Of all {census.all:,} {census.noun} some texts stay behind: {named}"
    return LedgerGroup(
        "remainder", "altered", "Remainder", head, "", frozenset(), frozenset(), tuple(lines)
    )


def remainder_words(census: Census) -> str:
    """What to look for in the file to see its remainder: the types of its records, divided by commas."""
    types = (each.type for several in census.kinds().values() for each in several)
    words = (_FORM.sub("", type_.partition(".")[0]) for type_ in types)
    return ", ".join(dict.fromkeys(words))


_FORM = re.compile(r" (form \d+ )?\(.*\)$")
"""What stands behind the number of an IGES type: its form and its name."""


_MOST_KINDS = 3


def note_cards(notes: tuple[Note, ...], products: Mapping[str, str]) -> list[LedgerGroup]:
    """Equal notes as one card with their places.

    Args:
        products: id of each product by its label, for marking.
    """
    counts = Counter(note.code for note in notes)
    cards = []
    for code, count in counts.items():
        same = [note for note in notes if note.code == code]
        verdict = "lost" if code in GRAVE else "carried" if code in _QUIET else "altered"
        title = code.replace("-", " ").capitalize()
        first = same[0].text[:1].upper() + same[0].text[1:]
        text = first if count == 1 else f"{count} times, first: {same[0].text}"
        lines = tuple(f"{n.where}: {n.text}" if n.where else n.text for n in same)
        ids = frozenset(products[label] for n in same if (label := n.where.partition(" #")[0]) in products)
        where = same[0].where if count == 1 else count_of(count, "place")
        cards.append(
            LedgerGroup("", verdict, title, text, where, ids, frozenset(), lines if count > 1 else ())
        )
    order = {"lost": 0, "altered": 1, "carried": 2}
    return sorted(cards, key=lambda card: order[card.verdict])


_TITLES = {
    "added": "Added", "removed": "Removed", "moved": "Moved", "geometry": "Shape changed",
    "metadata": "Facts changed",
}  # fmt: skip
_VERDICTS = {"added": "added", "removed": "lost"}


def change_cards(difference: Difference) -> list[LedgerGroup]:
    """What changed at a source, one card for each change, by kind."""
    cards = []
    for kind, title in _TITLES.items():
        for change in difference.of(kind):
            cards.append(_card(change, title))
    return cards


def _card(change: Change, title: str) -> LedgerGroup:
    verdict = _VERDICTS.get(change.kind, "altered")
    return LedgerGroup(
        "",
        verdict,
        f"{change.label}: {title.lower()}",
        change.text,
        "",
        frozenset({change.product}),
        frozenset(),
    )


def far_away(centres: np.ndarray) -> list[int]:
    """Which things lie far off from all the rest.

    Args:
        centres: centre of each thing in the whole, n × 3, mm.

    Source: own: further from the median place than 50 times the median distance from it (and 10 m).
    """
    if len(centres) < 3:
        return []
    away = np.linalg.norm(centres - np.sort(centres, axis=0)[len(centres) // 2], axis=1)
    limit = max(_FAR * float(np.sort(away)[len(away) // 2]), 10_000.0)
    return [int(n) for n in np.flatnonzero(away > limit)]
