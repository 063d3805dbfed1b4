"""A system without assemblies: every body stands where it is, and names end at thirty characters."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.kernel.base.shape import moved_blob
from gondrel.core.model.product import IDENTITY, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.stand_ins.base import StandIn, Taken, opened
from gondrel.core.work import Progress

__all__ = ["STAND_IN"]

_LONGEST = 30


def _take(path: str, store: BlobStore, progress: Progress) -> Taken:
    _, model = opened(path, store, progress)
    complaints: dict[str, None] = {}
    if any(product.occurrences for product in model.products):
        complaints["the assembly came in as loose bodies"] = None
    parts: list[Product] = []
    for place in model.walk():
        product = model.product(place.product)
        for body in product.bodies:
            blob = body.blob
            if tuple(place.placement) != IDENTITY:
                blob = store.put(moved_blob(store.get(blob), place.placement))
            name = product.name[:_LONGEST]
            for text in (product.name, body.name):
                if len(text) > _LONGEST:
                    complaints[f"{text}: the name was cut to {text[:_LONGEST]!r}"] = None
            number = len(parts) + 1
            moved = replace(
                body.moved(blob), id=f"body {number}", name=body.name[:_LONGEST], witness=None,
            )  # fmt: skip
            parts.append(replace(
                product, id=f"part {number}", name=name, bodies=(moved,), occurrences=(), validation=None,
                references=(),
            ))  # fmt: skip
    flat = replace(model, products=tuple(parts), roots=tuple(p.id for p in parts))
    return Taken(flat, tuple(complaints))


STAND_IN = StandIn(
    "flat", "A system without assemblies",
    f"It takes assemblies apart into loose bodies and cuts names at {_LONGEST} characters.",
    _take, flattens=True,
)  # fmt: skip
