"""A received model put beside what is there, or into a product that was prepared for it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from gondrel.core.errors import UsageError
from gondrel.core.model.graft import apart_from
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["with_model_added", "with_model_inside", "with_new_product"]


def with_model_added(model: Model, other: Model) -> Model:
    """Both models as one; nothing of either is changed but ids that would clash."""
    added = apart_from(model, other)
    return replace(
        model,
        products=(*model.products, *added.products),
        roots=(*model.roots, *added.roots),
        notes=(*model.notes, *added.notes),
    )


def with_model_inside(model: Model, product_id: str, other: Model) -> Model:
    """A model put into a prepared product, which keeps its number, name, revision, material and metadata.

    What stood alone in the received file stands in the product now: a single part gives it its bodies,
    anything else becomes components of it. Bodies without a colour or a layer take those of the bodies
    that the product has already.

    Raises:
        UsageError: when there is no such product.
    """
    if product_id not in model.by_id:
        raise UsageError("the product to receive into is not there")
    added = apart_from(model, other)
    house = model.product(product_id)
    pattern = house.bodies[0] if house.bodies else None
    roots = [added.product(r) for r in added.roots if not added.product(r).is_reference]
    bodies, uses = list(house.bodies), list(house.occurrences)
    gone: set[str] = set()
    for root in roots:
        if len(roots) == 1:
            gone.add(root.id)
            bodies += root.bodies
            uses += root.occurrences
        else:
            uses.append(Occurrence(f"{root.id}@{house.id}", root.id, root.label))
    if pattern is not None:
        bodies = [
            replace(b, colour=b.colour or pattern.colour, layers=b.layers or pattern.layers) for b in bodies
        ]
    filled = replace(house, bodies=tuple(bodies), occurrences=tuple(uses), validation=None)
    kept = tuple(p for p in added.products if p.id not in gone)
    products = (*(filled if p.id == house.id else p for p in model.products), *kept)
    apart = tuple(r for r in added.roots if added.product(r).is_reference)
    return replace(
        model,
        products=products,
        roots=(*model.roots, *apart),
        notes=(*model.notes, *added.notes),
    )


def with_new_product(
    model: Model, number: str, name: str, *, facts: Mapping[str, str] | None = None
) -> Model:
    """The model with an empty product of its own, prepared for something to be received into."""
    taken = {p.id for p in model.products}
    count = 1
    while f"new{count}" in taken:
        count += 1
    said = facts or {}
    product = Product(f"new{count}", number, name, said.get("revision", ""), said.get("description", ""))
    return replace(model, products=(*model.products, product), roots=(*model.roots, product.id))
