"""Forecast and proof of a send as placed bodies or as parts alone, told of the items of the model that was
meant."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace

from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.inventory import inventory
from gondrel.core.carriage.items import NO_UNIT, Item, Key
from gondrel.core.carriage.ledger import Compared, Proof
from gondrel.core.carriage.proof import finish_proof
from gondrel.core.model.carries import Fated
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Fate, Verdict, worst

__all__ = ["ALONE", "PLACED", "fold_proof", "foresee_placed"]

PLACED = {
    "structure": "placed bodies have no components",
    "placement": "the place goes into the body; the component itself is not kept",
    "": "it is said of an assembly or a component, and placed bodies have none",
}
"""Why things of assemblies are lost where placed bodies are sent; what holds for any thing is under ""."""

ALONE = {
    "structure": "each part goes as a file of its own, without components",
    "placement": "a part alone has no place",
    "": "it is said of an assembly or a component, and only parts go",
}
"""The same where each part is sent alone."""


def foresee_placed(
    model: Model,
    going: Model,
    origin: Mapping[str, str],
    special: Iterable[Fated],
    whys: Mapping[str, str] = PLACED,
) -> Iterator[Fated]:
    """What becomes of the items of a model whose bodies are sent placed.

    Args:
        going: the placed model; origin: subject in it to subject in the model.
        special: fate and why of single items of the placed model.
        whys: PLACED or ALONE.
    """
    kept = {(thing, origin.get(subject, subject), aspect) for thing, subject, aspect in inventory(going)}
    for key, item in inventory(model).items():
        if item.subject and key not in kept:
            yield key, (Fate.LOST, whys.get(item.thing, whys[""]))
    for (thing, subject, aspect), fate in special:
        yield (thing, origin.get(subject, subject), aspect), fate


def fold_proof(meant: Model, flat: Proof, origin: Mapping[str, str], forecast: Forecast | None) -> Proof:
    """The proof of the placed bodies as one of the model: of several copies the worst one speaks."""
    by_item: dict[Key, list[Compared]] = {}
    added: list[Compared] = []
    for entry in flat.ledger.entries:
        for each in entry.items:
            if each.verdict is Verdict.ADDED or (each.item.subject and each.item.subject not in origin):
                added.append(replace(each, item=replace(each.item, products=())))
                continue
            thing, subject, aspect = each.item.key
            by_item.setdefault((thing, origin.get(subject, subject), aspect), []).append(each)
    compared = []
    for key, item in inventory(meant).items():
        copies = by_item.get(key, [])
        if copies:
            compared.append(_folded(item, copies))
        else:
            compared.append(Compared(item, Verdict.LOST, "", "sent without its assembly"))
    extra = by_item.get(("units", "", "size"), [])
    return finish_proof(
        [*compared, *extra, *added],
        forecast,
        replace(flat, pairs=()),
        units=(meant.unit_told or NO_UNIT, flat.ledger.of("units").after),
    )


def _folded(item: Item, copies: list[Compared]) -> Compared:
    verdict = worst(c.verdict for c in copies)
    speaker = next(c for c in copies if c.verdict == verdict)
    products = tuple(dict.fromkeys(p for c in copies for p in c.returned_products))
    weight = min(c.after_weight for c in copies)
    return Compared(item, verdict, speaker.after, speaker.detail, weight, products)
