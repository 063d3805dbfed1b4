"""A sender's check figures against the shape as it was read."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

import numpy as np

from gondrel.core.model.body import BodyFacts
from gondrel.core.model.limits import unlike
from gondrel.core.model.mass import Totals, totals_of
from gondrel.core.model.product import Occurrence, Product, Validation
from gondrel.core.model.snapshot import Model

__all__ = [
    "ASTRAY", "CONTRADICTS", "astray", "contradicted", "figures_changed", "notional_of", "placed_centroid",
    "without_stale_figures",
]  # fmt: skip

ASTRAY = 0.05
"""How far, mm, a component's centroid may lie from where the sender says; senders integrate coarsely."""

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
    whole = _measured(model, facts)
    if not any(product.validation is not None and product.id in whole for product in model.products):
        return {}
    totals = totals_of(model, facts)
    contradictions = {}
    for product in model.products:
        if product.validation is None or product.id not in whole:
            continue
        own = totals[product.id]
        notional = notional_of(product)
        shape = Validation(own.volume, own.area, own.centroid, len(product.occurrences), 0, notional)
        if changes := list(figures_changed(product.validation, shape, "by the sender", "as it stands")):
            contradictions[product.id] = changes
    return contradictions


def without_stale_figures(before: Model, after: Model) -> Model:
    """A changed model without the sender's figures of what has another shape now, or contains such: they
    tell of what was received. Figures that the change itself gave a product stay.

    Raises:
        MalformedFile: when a product of either contains itself.
    """
    if all(product.validation is None for product in after.products):
        return after
    was, now = _shape_marks(before), _shape_marks(after)

    def is_stale(product: Product) -> bool:
        old = before.by_id.get(product.id)
        kept = old is not None and product.validation is not None and product.validation == old.validation
        return kept and was[product.id] != now[product.id]

    if not any(map(is_stale, after.products)):
        return after
    products = (replace(p, validation=None) if is_stale(p) else p for p in after.products)
    return after.with_same_places(tuple(products))


def _shape_marks(model: Model) -> dict[str, int]:
    """For each product a number that is the same within one process where its bodies, and what stands in
    it where, are the same."""
    marks: dict[str, int] = {}
    for product in reversed(model.downwards):
        children = [(marks.get(use.product, 0), use.placement) for use in product.occurrences]
        marks[product.id] = hash((tuple(body.blob for body in product.bodies), tuple(sorted(children))))
    return marks


def notional_of(product: Product) -> tuple[float, float, float] | None:
    """The middle of equal solids in the places of a product's children, mm; None without any.

    Source: the recommended practices for validation properties, from memory; that each solid's own
    centroid lies at (10, 10, 10) mm was found on the four assemblies of Debian's as1-tu-203, whose figures
    it meets to nine digits.
    """
    if not product.occurrences:
        return None
    placed = [np.asarray(use.placement).reshape(4, 4) for use in product.occurrences]
    x, y, z = np.mean([matrix[:3, :3] @ _NOTIONAL + matrix[:3, 3] for matrix in placed], axis=0).tolist()
    return x, y, z


_NOTIONAL = np.array([10.0, 10.0, 10.0])


def placed_centroid(use: Occurrence, totals: Mapping[str, Totals]) -> tuple[float, float, float] | None:
    """Where the centroid of a component lies in its assembly, mm; None where it has none."""
    own = totals[use.product].centroid if use.product in totals else None
    if own is None:
        return None
    matrix = np.asarray(use.placement).reshape(4, 4)
    x, y, z = (float(v) for v in matrix[:3, :3] @ np.asarray(own) + matrix[:3, 3])
    return x, y, z


def astray(model: Model, facts: Mapping[str, BodyFacts]) -> dict[str, str]:
    """Components whose centroid lies elsewhere than the sender says, in words, by occurrence id."""
    if all(use.centroid is None for _, use in model.occurrences()):
        return {}
    totals, known = totals_of(model, facts), _measured(model, facts)
    astray = {}
    for _, use in model.occurrences():
        place = placed_centroid(use, totals) if use.product in known else None
        if use.centroid is None or place is None:
            continue
        off = float(np.linalg.norm(np.subtract(use.centroid, place)))
        if off > ASTRAY:
            astray[use.id] = f"its centroid lies {off:.4g} mm from where the sender says"
    return astray


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
    if before.notional is not None and after.notional is not None:
        off = float(np.linalg.norm(np.subtract(before.notional, after.notional)))
        if off > 1e-3:
            yield f"middle of the solids in the children's places {off:.4g} mm apart, {was} and {now}"
    counts = before.occurrences, after.occurrences
    if None not in counts and counts[0] != counts[1]:
        yield f"{counts[0]} children {was}, {counts[1]} {now}"


def _measured(model: Model, facts: Mapping[str, BodyFacts]) -> set[str]:
    """Ids of the products that have a shape and whose every body, however deep, has facts."""
    measured: dict[str, bool] = {}

    def of(product: Product, above: tuple[str, ...]) -> bool:
        if product.id not in measured:
            below = [model.by_id.get(o.product) for o in product.occurrences if o.product not in above]
            has_shape = bool(product.bodies or product.occurrences) and not product.missing_file
            has_shape = has_shape and product.unread is None
            measured[product.id] = (
                has_shape
                and all(b.blob in facts for b in product.bodies)
                and all(child is not None and of(child, (*above, product.id)) for child in below)
            )
        return measured[product.id]

    return {product.id for product in model.products if of(product, ())}
