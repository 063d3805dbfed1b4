"""The same solid, or the same component, twice in one place."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.errors import KernelRefused
from gondrel.core.mends.base import Changed, ModelMend, ModelWork
from gondrel.core.model.product import Occurrence, Product

__all__ = ["MEND"]


def run(work: ModelWork) -> Changed:
    """The model with one of each such pair. Raises KernelRefused when both are parts of their own."""
    product = work.model.product(work.product)
    twins = {f.other for f in work.findings if f.code == "A510" and f.other != f.body}
    bodies = tuple(b for b in product.bodies if b.id not in twins)
    model, dropped = work.model, len(product.bodies) - len(bodies)
    if dropped:
        model = model.with_product(replace(product, bodies=bodies))
    for parent in model.products:
        kept = _once(parent, work.product)
        if len(kept) < len(parent.occurrences):
            dropped += len(parent.occurrences) - len(kept)
            model = model.with_product(replace(parent, occurrences=kept))
    if not dropped:
        raise KernelRefused("they belong to different parts; take one of them out of the structure")
    return Changed(model, f"{dropped} dropped of what stood there twice")


def _once(parent: Product, product: str) -> tuple[Occurrence, ...]:
    """The occurrences in a parent without those of a product in a place where it stands already."""
    seen: set[tuple[float, ...]] = set()
    kept = []
    for use in parent.occurrences:
        place = tuple(round(v, 6) for v in use.placement)
        if use.product == product and place in seen:
            continue
        if use.product == product:
            seen.add(place)
        kept.append(use)
    return tuple(kept)


MEND = ModelMend(
    code="R302",
    name="drop-doubled-solids",
    title="Drop what stands twice in one place",
    what="Of two equal solids of a part, or two components of one part, in the same place one is kept.",
    cures=("A510", "A504"),
    order=120,
    is_single=True,
    run=run,
)
