"""A model as placed bodies: each where it stands in the whole, on its own, without components.

For receivers that take solids but no structure. What a product says of itself goes with each of its
bodies.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from gondrel.core.kernel.base.shape import moved_blob
from gondrel.core.model.body import Body
from gondrel.core.model.product import IDENTITY, Placement, Product
from gondrel.core.model.snapshot import Model, compose
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["PlacedModel", "place_bodies"]


@dataclass(frozen=True, slots=True)
class PlacedModel:
    """The placed bodies as a model, and which product or body each of its own was made from."""

    model: Model
    origin: Mapping[str, str]


def place_bodies(model: Model, store: BlobStore, *, progress: Progress = SILENT) -> PlacedModel:
    """Every body of a model in its place, as a product of its own.

    Raises:
        KernelRefused: when a body can't be moved.
    """
    products: list[Product] = []
    origin: dict[str, str] = {}
    done: dict[tuple[str, Placement], str] = {}
    for place in progress.each(list(model.walk()), "Placing bodies"):
        product = model.by_id.get(place.product)
        if product is None:
            continue
        for made in _placed(product, place.path, place.placement, store, done):
            origin[made.id] = product.id
            origin[made.bodies[0].id] = made.bodies[0].id.split("@")[0]
            products.append(made)
    flat = replace(model, products=tuple(products), roots=tuple(p.id for p in products))
    return PlacedModel(flat, origin)


def _placed(
    product: Product,
    path: tuple[str, ...],
    placement: Placement,
    store: BlobStore,
    done: dict[tuple[str, Placement], str],
) -> Iterator[Product]:
    where = "/".join(path)
    for body in product.bodies:
        blob = _moved(body.blob, placement, store, done)
        made: Body = replace(body.moved(blob), id=f"{body.id}@{where}")
        references = tuple(
            replace(each, placement=compose(placement, each.placement)) for each in product.references
        )
        yield replace(
            product, id=f"{product.id}@{where}@{body.id}", bodies=(made,), occurrences=(), validation=None,
            references=references,
        )  # fmt: skip


def _moved(
    blob: str, placement: Placement, store: BlobStore, done: dict[tuple[str, Placement], str]
) -> str:
    if tuple(placement) == IDENTITY:
        return blob
    key = (blob, tuple(placement))
    if key not in done:
        done[key] = store.put(moved_blob(store.get(blob), placement))
    return done[key]
