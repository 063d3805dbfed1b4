"""The parts that are of a size: with a bore, of a mass, or too close to others."""

from __future__ import annotations

from collections.abc import Mapping

from gondrel.core.errors import UsageError
from gondrel.core.measuring.clearances import closer_than
from gondrel.core.measuring.holes import bores_of
from gondrel.core.measuring.placed import placed_bodies
from gondrel.core.model.body import BodyFacts, BodyKind
from gondrel.core.model.facets import is_facets
from gondrel.core.model.mass import kilograms
from gondrel.core.model.product import Product
from gondrel.core.model.sizes import SizeTerm
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["parts_of_size"]


def parts_of_size(
    model: Model, term: SizeTerm, store: BlobStore, facts: Mapping[str, BodyFacts], *,
    progress: Progress = SILENT,
) -> frozenset[str]:  # fmt: skip
    """Ids of the parts that fit. A part without a density has no mass, and so none that fits.

    Raises:
        UsageError: when there are too many neighbours to look at.
    """
    parts = [p for p in model.products if p.bodies and not p.is_reference]
    if term.kind == "bore":
        return frozenset(
            p.id for p in progress.each(parts, "Looking for bores")
            if any(term.low <= diameter <= term.high for diameter in bores_of(p, store))
        )  # fmt: skip
    if term.kind == "mass":
        return frozenset(
            p.id for p in parts if (mass := _mass(p, facts)) is not None and term.low < mass < term.high
        )
    bodies = [
        each for each in placed_bodies(model)
        if each.body.kind is not BodyKind.MESH and not is_facets(store.get(each.body.blob))
    ]  # fmt: skip
    if len(bodies) > _MOST:
        raise UsageError(
            f"{len(bodies):,} bodies in place are too many to look at all pairs (of {_MOST:,})"
        )
    pairs = closer_than(bodies, term.high, store, facts, progress=progress)
    return frozenset(product for pair in pairs for product, _ in pair.items)


_MOST = 3000


def _mass(product: Product, facts: Mapping[str, BodyFacts]) -> float | None:
    density = product.material.density if product.material is not None else None
    if not density or any(body.blob not in facts for body in product.bodies):
        return None
    return kilograms(sum(facts[body.blob].volume for body in product.bodies), density)
