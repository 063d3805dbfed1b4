"""A house that works in inches and trusts numbers over units."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.kernel.base.shape import moved_blob
from gondrel.core.model.product import Placement
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.stand_ins.base import StandIn, Taken, opened
from gondrel.core.work import Progress

__all__ = ["STAND_IN"]

_INCH = 25.4


def _take(path: str, store: BlobStore, progress: Progress) -> Taken:
    _, model = opened(path, store, progress)
    factor = _INCH / model.units.mm
    if abs(factor - 1) < 1e-9:
        return Taken(model)
    larger = (factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, 1)
    products = []
    blobs: dict[str, str] = {}
    for product in model.products:
        for body in product.bodies:
            if body.blob not in blobs:
                blobs[body.blob] = store.put(moved_blob(store.get(body.blob), larger))
        bodies = tuple(replace(body, blob=blobs[body.blob], witness=None) for body in product.bodies)
        uses = tuple(
            replace(use, placement=_scaled(use.placement, factor), centroid=None)
            for use in product.occurrences
        )
        products.append(replace(product, bodies=bodies, occurrences=uses, validation=None))
    text = f"every number was taken for inches: the model is {factor:.4g} times as large as it is meant"
    return Taken(replace(model, products=tuple(products)), (text,))


def _scaled(placement: Placement, factor: float) -> Placement:
    values = list(placement)
    for place in (3, 7, 11):
        values[place] *= factor
    return tuple(values)


STAND_IN = StandIn(
    "inch", "An inch house", "It takes every number for inches, whatever unit the file says.",
    _take,
)  # fmt: skip
