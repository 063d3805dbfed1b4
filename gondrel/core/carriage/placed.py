"""Forecast and proof of a send as placed bodies, told of the items of the model that was meant."""

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

__all__ = ["fold_proof", "foresee_placed"]

_WHY = {
    "structure": "placed bodies have no components",
    "placement": "the place goes into the body; the component itself is not kept",
}
_OTHERWISE = "it is said of an assembly or a component, and placed bodies have none"


def foresee_placed(
    model: Model,
    origin: Mapping[str, str],
    special: Iterable[Fated],
) -> Iterator[Fated]:
    """What becomes of the items of a model whose bodies are sent placed.

    Args:
        origin: subject in the placed model to subject in the model.
        special: fate and why of single items of the placed model.
    """
    kept = set(origin.values())
    for key, item in inventory(model).items():
        if _is_dropped(item, kept):
            yield key, (Fate.LOST, _WHY.get(item.thing, _OTHERWISE))
    for (thing, subject, aspect), fate in special:
        yield (thing, origin.get(subject, subject), aspect), fate


def _is_dropped(item: Item, kept: set[str]) -> bool:
    return bool(item.subject) and item.subject not in kept


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
    kept = set(origin.values())
    compared = []
    for key, item in inventory(meant).items():
        copies = by_item.get(key, [])
        if copies and not _is_dropped(item, kept):
            compared.append(_folded(item, copies))
        else:
            compared.append(Compared(item, Verdict.LOST, "", "sent as placed bodies"))
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
