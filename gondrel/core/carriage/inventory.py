"""Everything a model has that can be carried or lost, item by item."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from gondrel.core.carriage.aspects.base import Aspect, Statement, Subject
from gondrel.core.carriage.aspects.of_body import OF_BODY
from gondrel.core.carriage.aspects.of_model import OF_MODEL
from gondrel.core.carriage.aspects.of_occurrence import OF_OCCURRENCE
from gondrel.core.carriage.aspects.of_product import OF_PRODUCT, ROOT
from gondrel.core.carriage.items import Item, Key
from gondrel.core.model.body import Body
from gondrel.core.model.carries import THINGS
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["Listed", "inventory", "listed", "of_body", "of_model", "of_occurrence", "of_product"]


@dataclass(frozen=True, slots=True)
class Listed:
    """One item with what it was stated by."""

    item: Item
    aspect: Aspect[Any]
    statement: Statement
    subject: Subject[Any]


def inventory(model: Model) -> dict[Key, Item]:
    """Every item of a model by its key, in the order of the ledger and of the model."""
    return {key: each.item for key, each in listed(model).items()}


def listed(model: Model) -> dict[Key, Listed]:
    """Every item of a model by its key, with its aspect and subject."""
    order = {thing: index for index, thing in enumerate(THINGS)}
    ordered = sorted(_listed(model), key=lambda each: order[each.item.thing])
    return {each.item.key: each for each in ordered}


def of_model(model: Model) -> Subject[Model]:
    """A model as a subject."""
    return Subject(model, model, "", "")


def of_product(model: Model, product: Product) -> Subject[Product]:
    """A product as a subject."""
    return Subject(model, product, product.id, product.label, product, (product.id,))


def of_body(model: Model, product: Product, body: Body, place: int = 0) -> Subject[Body]:
    """A body as a subject.

    Args:
        place: which body of the product it is, from 1, by which one without a name is called.
    """
    alone = len(product.bodies) == 1 and body.name in ("", product.label)
    label = product.label
    if not alone:
        label = f"{label} / {body.name or f'body {place}'}"
    return Subject(model, body, body.id, label, product, (product.id,))


def of_occurrence(model: Model, parent: Product, occurrence: Occurrence) -> Subject[Occurrence]:
    """A component as a subject."""
    child = model.by_id.get(occurrence.product)
    label = occurrence.name or (child.label if child else occurrence.id)
    ids = (occurrence.product, parent.id)
    return Subject(model, occurrence, occurrence.id, f"{parent.label} / {label}", parent, ids)


def _listed(model: Model) -> Iterator[Listed]:
    yield from _by(OF_MODEL, of_model(model))
    for root in model.roots:
        if root in model.by_id:
            yield from _by((ROOT,), of_product(model, model.product(root)))
    for product in model.products:
        yield from _by(OF_PRODUCT, of_product(model, product))
        for place, body in enumerate(product.bodies, 1):
            yield from _by(OF_BODY, of_body(model, product, body, place))
        for occurrence in product.occurrences:
            yield from _by(OF_OCCURRENCE, of_occurrence(model, product, occurrence))


def _by(aspects: Iterable[Aspect[Any]], subject: Subject[Any]) -> Iterator[Listed]:
    for aspect in aspects:
        for statement, item in aspect.items(subject):
            yield Listed(item, aspect, statement, subject)
