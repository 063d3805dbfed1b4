"""A sender's check figures against the shape as it was read."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from gondrel.core.model.body import BodyFacts
from gondrel.core.model.limits import unlike
from gondrel.core.model.mass import totals_of
from gondrel.core.model.product import Product, Validation
from gondrel.core.model.snapshot import Model

__all__ = ["CONTRADICTS", "contradicted", "figures_changed"]

CONTRADICTS = 1e-3
"""Share from which a figure contradicts a shape. A public sample's own figures of cylinders were seen to be
4e-4 off their closed forms, for want of an exact integration."""


def contradicted(model: Model, facts: Mapping[str, BodyFacts]) -> dict[str, list[str]]:
    """What check figures say otherwise than the shape, both values in words, by product id.

    Args:
        facts: measures of all bodies by hash; products with a body that has none are passed over.
    """
    if not any(product.validation is not None for product in model.products):
        return {}
    totals = totals_of(model, facts)
    whole = _measured(model, facts)
    found = {}
    for product in model.products:
        if product.validation is None or product.id not in whole:
            continue
        own = totals[product.id]
        shape = Validation(own.volume, own.area, own.centroid, len(product.occurrences))
        if told := list(figures_changed(product.validation, shape, "by the sender", "as read")):
            found[product.id] = told
    return found


def figures_changed(before: Validation, after: Validation, was: str, now: str) -> Iterator[str]:
    """The figures of two that differ by more than rounding, in words with both values.

    Args:
        was, now: what each is called.
    """
    for name, unit, one, other in (
        ("volume", "mm3", before.volume, after.volume),
        ("area", "mm2", before.area, after.area),
    ):
        if one is not None and other is not None and unlike(one, other) > CONTRADICTS:
            yield f"{name} {one:.7g} {unit} {was}, {other:.7g} {unit} {now}"
    if before.centroid is not None and after.centroid is not None:
        off = float(np.linalg.norm(np.subtract(before.centroid, after.centroid)))
        size = max(abs(after.volume or 0.0) ** (1 / 3), (after.area or 0.0) ** 0.5, 1e-9)
        if off > max(CONTRADICTS * size, 1e-3):
            places = (", ".join(f"{v:.4f}" for v in c) for c in (before.centroid, after.centroid))
            yield f"centroid ({next(places)}) {was}, ({next(places)}) {now}"
    counts = before.occurrences, after.occurrences
    if None not in counts and counts[0] != counts[1]:
        yield f"{counts[0]} children {was}, {counts[1]} {now}"


def _measured(model: Model, facts: Mapping[str, BodyFacts]) -> set[str]:
    """Ids of the products whose every body, however deep, has facts."""
    found: dict[str, bool] = {}

    def of(product: Product, above: tuple[str, ...]) -> bool:
        if product.id not in found:
            below = [model.by_id.get(o.product) for o in product.occurrences if o.product not in above]
            found[product.id] = all(b.blob in facts for b in product.bodies) and all(
                child is not None and of(child, (*above, product.id)) for child in below
            )
        return found[product.id]

    return {product.id for product in model.products if of(product, ())}
