"""A system that takes closed solids only, that gape by a hundredth of a millimetre at most."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.kernel.base.shape import shape_from_blob, shells_of
from gondrel.core.kernel.measure.gaping import gape_of
from gondrel.core.model.body import BodyKind
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.stand_ins.base import StandIn, Taken, opened, with_bodies
from gondrel.core.work import Progress

__all__ = ["STAND_IN"]

_WIDEST = 0.01


def _take(path: str, store: BlobStore, progress: Progress) -> Taken:
    _, model = opened(path, store, progress)
    complaints, products = [], []
    for product in model.products:
        kept = []
        for body in product.bodies:
            if body.kind is not BodyKind.SOLID:
                complaints.append(f"{product.label}: a {body.kind.value} is no closed solid; left away")
                continue
            shells = len(shells_of(shape_from_blob(store.get(body.blob))))
            if shells > 1:
                complaints.append(f"{product.label}: it is hollow, with {shells} shells; left away")
                continue
            gape = gape_of(store.get(body.blob))
            if gape > _WIDEST:
                complaints.append(f"{product.label}: it gapes by {gape:.3g} mm; left away")
                continue
            kept.append(body)
        products.append(with_bodies(product, kept) if len(kept) != len(product.bodies) else product)
    return Taken(replace(model, products=tuple(products)), tuple(complaints))


STAND_IN = StandIn(
    "strict", "A strict solid modeller",
    f"It rejects what is no closed solid, is hollow, or gapes by more than {_WIDEST:g} mm.",
    _take,
)  # fmt: skip
