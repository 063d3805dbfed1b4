"""A model in the wrong unit."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import moved_blob
from gondrel.core.mends.base import Changed, ModelMend, ModelWork
from gondrel.core.model.product import Placement
from gondrel.core.model.snapshot import Model

__all__ = ["MEND"]


def run(work: ModelWork) -> Changed:
    """The whole model larger or smaller by the factor that the check proposes. Raises KernelRefused."""
    factor = next((f.measured for f in work.findings if f.code in MEND.cures and f.measured), None)
    if factor is None:
        raise KernelRefused("no factor is proposed")
    size: Placement = (factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, 1)
    blobs = {b: work.store.put(moved_blob(work.store.get(b), size)) for b in work.model.blobs()}
    products = tuple(
        replace(
            product,
            bodies=tuple(replace(b, blob=blobs[b.blob]) for b in product.bodies),
            occurrences=tuple(
                replace(use, placement=_farther(use.placement, factor)) for use in product.occurrences
            ),
            validation=None,
        )
        for product in work.model.products
    )
    model: Model = replace(work.model, products=products)
    return Changed(model, f"everything is {factor:g} times as large")


def _farther(placement: Placement, factor: float) -> Placement:
    return tuple(v * factor if place in (3, 7, 11) else v for place, v in enumerate(placement))


MEND = ModelMend(
    code="R305",
    name="rescale",
    title="Take the model in the unit its sizes fit",
    what="Bodies and places grow or shrink by the factor at which the sizes are usual ones.",
    cures=("A512",),
    order=5,
    is_asked=True,
    run=run,
)
