"""The proof: what was meant and what came back, compared thing by thing."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from gondrel.core.carriage.added import added_items
from gondrel.core.carriage.appearance import Spots
from gondrel.core.carriage.aspects.base import Pair, Subject
from gondrel.core.carriage.compare import lost, scale_between
from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.inventory import (
    Listed,
    listed,
    of_body,
    of_model,
    of_occurrence,
    of_product,
)
from gondrel.core.carriage.items import NO_UNIT, RETURNED, Item, Key
from gondrel.core.carriage.ledger import Compared, Ledger, Proof, make_ledger
from gondrel.core.carriage.matching import match_models
from gondrel.core.carriage.sides import Measure, Sides
from gondrel.core.carriage.words import is_of_its_own
from gondrel.core.errors import InputError
from gondrel.core.kernel.measure.deviation import ACCURACY, METHOD
from gondrel.core.model.body import Body, BodyFacts
from gondrel.core.model.landmarks import Landmarks
from gondrel.core.model.limits import Limits
from gondrel.core.model.mass import totals_of
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Fate, Verdict

__all__ = ["finish_proof", "prove_models"]


def prove_models(
    meant: Model,
    returned: Model,
    facts: Mapping[str, BodyFacts],
    *,
    measure: Measure,
    spots: Spots | None = None,
    edge_spots: Spots | None = None,
    landmarks: Callable[[str], Landmarks] | None = None,
    forecast: Forecast | None = None,
    limits: Limits | None = None,
) -> Proof:
    """Compare what was meant with what came back.

    Args:
        facts: measures of the bodies of both models by hash.
        measure: the deviation between two bodies given by their hashes; spots, edge_spots: where the faces
            and edges of a body lie, for comparing their colours; landmarks: of a body, for knowing parts by
            their shape that neither name nor size tells.

    Raises:
        InputError: when there is nothing to compare at all.
    """
    if not meant.products:
        raise InputError("there is nothing to compare: the first model holds no product")
    sides = Sides(
        meant,
        returned,
        facts,
        match_models(meant, returned, facts, landmarks),
        limits or Limits(),
        measure,
        spots,
        edge_spots,
    )
    sides.totals = totals_of(returned, facts)
    sides.bodies = {b.id: (p, b) for model in (meant, returned) for p, b in _tagged(model, returned)}
    sides.uses = {o.id: (p, o) for model in (meant, returned) for p, o in _tagged_uses(model, returned)}
    factor = _factor(sides)
    if factor is not None:  # colours of faces are looked for where they are at the size that was meant
        sides.spots = _at_size(spots, returned, factor, 2)
        sides.edge_spots = _at_size(edge_spots, returned, factor, 1)
    compared = [_compare(sides, each) for each in listed(meant).values()]
    compared += _size_change(factor)
    compared += added_items(sides)
    figures = Proof(
        verdict=Verdict.UNPROVED,
        ledger=Ledger(()),
        max_deviation=sides.deviation,
        max_volume_error=sides.volume_error,
        max_shift=sides.shift,
        unannounced=(),
        false_alarms=(),
        pairs=tuple(sides.matching.bodies.items()),
        method=f"{METHOD.format(limit=1500)}; accurate to {ACCURACY:g} mm. {sides.limits.in_words}",
    )
    return finish_proof(
        compared, forecast, figures, units=(meant.unit_told or NO_UNIT, returned.unit_told or NO_UNIT)
    )


def finish_proof(
    compared: list[Compared], forecast: Forecast | None, figures: Proof, *, units: tuple[str, str]
) -> Proof:
    """Compared items as a proof: what was announced of them, the ledger, and the verdict on all.

    Args:
        figures: a proof with the worst figures, the pairs and the method.
        units: keys of the length units before and after.
    """
    announced = None
    if forecast is not None:
        announced, surplus = forecast.announced(), forecast.surplus()
        compared = [replace(c, announced=_was_said(c, announced, surplus)) for c in compared]
    return replace(
        figures,
        verdict=_overall(compared),
        ledger=make_ledger(compared, announced, units, figures.max_deviation),
        unannounced=tuple(_unannounced(compared)),
        false_alarms=tuple(_false_alarms(compared, forecast)),
    )


def _tagged(model: Model, returned: Model) -> Iterator[tuple[Product, Body]]:
    for product, body in model.bodies():
        yield product, replace(body, id=RETURNED + body.id) if model is returned else body


def _tagged_uses(model: Model, returned: Model) -> Iterator[tuple[Product, Occurrence]]:
    for product, use in model.occurrences():
        yield product, replace(use, id=RETURNED + use.id) if model is returned else use


def _overall(compared: list[Compared]) -> Verdict:
    verdicts = {c.verdict for c in compared}
    if Verdict.LOST in verdicts:
        return Verdict.LOST
    gained = any(c.verdict is Verdict.ADDED and not _is_of_its_own(c.item) for c in compared)
    doubtful = gained or bool(verdicts & {Verdict.ALTERED, Verdict.UNPROVED})
    return Verdict.ALTERED if doubtful else Verdict.CARRIED


_OF_ITS_OWN = ("validation", "remainder")
"""What a writer adds of its own accord: check figures, and records that its protocol demands."""


def _is_of_its_own(item: Item) -> bool:
    return item.thing in _OF_ITS_OWN or is_of_its_own(item.aspect)


def _is_grave(each: Compared) -> bool:
    return each.verdict is Verdict.ADDED and each.item.thing in ("bodies", "structure")


def _was_said(each: Compared, announced: Mapping[Key, Fate], surplus: Counter[tuple[str, str]]) -> bool:
    """Whether a verdict was announced; what came back besides counts off what was said to."""
    if each.verdict.is_harm:
        fate = announced.get(each.item.key)
        return fate is not None and fate.value == each.verdict.value
    if not _is_grave(each):
        return True
    source = each.item.thing, (*each.item.products, "")[0]
    surplus[source] -= 1
    return surplus[source] >= 0


def _unannounced(compared: list[Compared]) -> Iterator[Compared]:
    for each in compared:
        if (_is_grave(each) or each.verdict.is_harm) and not each.announced:
            yield each


def _false_alarms(compared: list[Compared], forecast: Forecast | None) -> Iterator[Item]:
    if forecast is None:
        return
    happened = {c.item.key: c.verdict for c in compared}
    for entry in forecast.entries:
        verdict = happened.get(entry.item.key)
        if entry.fate is not Fate.CARRIED and (verdict is None or verdict.value != entry.fate.value):
            yield entry.item


def _compare(sides: Sides, listed: Listed) -> Compared:
    """The verdict on one item of the meant model: that of its aspect, held against what came back of it."""
    item, subject, matching = listed.item, listed.subject, sides.matching
    theirs: Subject[Any]
    ids: tuple[str, ...] = ()
    if isinstance(subject.it, Model):
        theirs = of_model(sides.returned)
    elif isinstance(subject.it, Product):
        theirs_id = matching.products.get(item.subject)
        if theirs_id is None:
            return lost(item, "the product did not come back")
        theirs, ids = of_product(sides.returned, sides.returned.product(theirs_id)), (theirs_id,)
    elif isinstance(subject.it, Body):
        theirs_id = matching.bodies.get(item.subject)
        if theirs_id is None:
            return lost(item, "the body did not come back")
        product, body = sides.bodies[RETURNED + theirs_id]
        theirs, ids = of_body(sides.returned, product, body), (product.id,)
    else:
        theirs_id = matching.occurrences.get(item.subject)
        if theirs_id is None:
            return lost(item, "the component did not come back")
        parent, use = sides.uses[RETURNED + theirs_id]
        theirs, ids = of_occurrence(sides.returned, parent, use), (use.product, parent.id)
    return listed.aspect.compared(Pair(sides, item, subject.it, theirs.it, ids), theirs)


def _at_size(spots: Spots | None, returned: Model, factor: float, power: int) -> Spots | None:
    """Spots with those of the returned bodies at the size that was meant.

    Args:
        power: of length, in which the size of a spot is measured.
    """
    if spots is None:
        return None
    blobs, look = set(returned.blobs()), spots
    sizes = np.array([factor, factor, factor, factor**power])
    return lambda key: look(key) / sizes if key in blobs else look(key)


def _factor(sides: Sides) -> float | None:
    """By which all bodies came back larger, None where there is no such factor or it is 1."""
    pairs = [
        (sides.facts[sides.bodies[a][1].blob], sides.facts[sides.bodies[RETURNED + b][1].blob])
        for a, b in sides.matching.bodies.items()
        if sides.bodies[a][1].blob in sides.facts and sides.bodies[RETURNED + b][1].blob in sides.facts
    ]
    return scale_between(pairs)


def _size_change(factor: float | None) -> Iterator[Compared]:
    """One scale for everything is a unit taken for another, and is told as such."""
    if factor is None:
        return
    item = Item("units", "", "size", "whole model", "true size")
    detail = f"everything came back {factor:.6g} times its size"
    yield Compared(item, Verdict.ALTERED, f"x {factor:.6g}", detail, 1)
