"""What came back and was not sent: products, components and bodies, and what items have gained."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from gondrel.core.carriage import inventory
from gondrel.core.carriage.aspects.base import Aspect, Subject
from gondrel.core.carriage.aspects.of_body import OF_BODY
from gondrel.core.carriage.aspects.of_model import OF_MODEL
from gondrel.core.carriage.aspects.of_occurrence import OF_OCCURRENCE
from gondrel.core.carriage.aspects.of_product import OF_PRODUCT
from gondrel.core.carriage.items import RETURNED, Item
from gondrel.core.carriage.ledger import Compared
from gondrel.core.carriage.sides import Sides
from gondrel.core.model.verdicts import Verdict

__all__ = ["added_items"]

_NOT_SENT = "not in the model sent"


def added_items(sides: Sides) -> Iterator[Compared]:
    """What the returned model has and the meant one has not."""
    yield from _added_structure(sides)
    meant, returned, matching = sides.meant, sides.returned, sides.matching
    yield from _gained(OF_MODEL, inventory.of_model(meant), inventory.of_model(returned), RETURNED, "")
    for ours_id, theirs_id in matching.products.items():
        ours, theirs = (
            inventory.of_product(m, m.product(i)) for m, i in ((meant, ours_id), (returned, theirs_id))
        )
        yield from _gained(
            OF_PRODUCT, ours, theirs, RETURNED + theirs_id, theirs.path, (ours_id,), (theirs_id,)
        )
    for ours_id, theirs_id in matching.bodies.items():
        product, body = sides.bodies[ours_id]
        holder, back = sides.bodies[RETURNED + theirs_id]
        mine, its = inventory.of_body(meant, product, body), inventory.of_body(returned, holder, back)
        path = f"{product.label} / {back.name}" if back.name else product.label
        yield from _gained(OF_BODY, mine, its, back.id, path, (product.id,), (product.id,))
    for ours_id, theirs_id in matching.occurrences.items():
        parent, use = sides.uses[ours_id]
        _, again = sides.uses[RETURNED + theirs_id]
        sent, came = (inventory.of_occurrence(m, parent, u) for m, u in ((meant, use), (returned, again)))
        path = f"{parent.label} / {again.name or again.product}"
        yield from _gained(OF_OCCURRENCE, sent, came, again.id, path, (use.product,), (again.product,))


def _gained(
    aspects: Iterable[Aspect[Any]],
    ours: Subject[Any],
    theirs: Subject[Any],
    subject: str,
    path: str,
    ours_ids: tuple[str, ...] = (),
    theirs_ids: tuple[str, ...] = (),
) -> Iterator[Compared]:
    for aspect in aspects:
        for thing, each in aspect.gained(ours, theirs):
            weight = each.weight if thing == "remainder" else 1
            item = Item(thing, subject, each.aspect, path or each.where, "", weight, ours_ids)
            yield Compared(item, Verdict.ADDED, each.text, _NOT_SENT, weight, theirs_ids)


def _added_structure(sides: Sides) -> Iterator[Compared]:
    matching = sides.matching
    for product_id in (*matching.added_products, *matching.copies):
        product = sides.returned.product(product_id)
        source = matching.copies.get(product_id)
        ids: tuple[str, ...] = (source,) if source is not None else ()
        item = Item("structure", RETURNED + product_id, "added product", product.label, "", 1, ids)
        detail = "a copy of a shared part" if source is not None else _NOT_SENT
        yield Compared(item, Verdict.ADDED, product.label, detail, 1, (product_id,))
    for occurrence_id in matching.added_occurrences:
        parent, use = sides.uses[RETURNED + occurrence_id]
        item = Item("structure", use.id, "added component", f"{parent.label} / {use.name}", "")
        yield Compared(item, Verdict.ADDED, use.name, _NOT_SENT, 1, (parent.id,))
    for body_id in matching.added_bodies:
        product, body = sides.bodies[RETURNED + body_id]
        ids = tuple(ours for ours, theirs in matching.products.items() if theirs == product.id)
        item = Item("bodies", body.id, "added body", f"{product.label} / {body.name}", "", 1, ids)
        yield Compared(item, Verdict.ADDED, body.kind.value, _NOT_SENT, 1, (product.id,))
