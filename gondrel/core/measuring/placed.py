"""Bodies of a model in their places."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass

import numpy as np

from gondrel.core.model.body import Body
from gondrel.core.model.product import Placement, Product
from gondrel.core.model.snapshot import Model

__all__ = ["BodyInPlace", "placed_bodies", "scale_of", "under"]


@dataclass(frozen=True, slots=True)
class BodyInPlace:
    """A body in its place: its part, the occurrence ids that lead to it, its frame in the whole."""

    product: Product
    path: tuple[str, ...]
    body: Body
    placement: Placement


def placed_bodies(model: Model) -> Iterator[BodyInPlace]:
    """Every body in each of its places, but none that only stands for another file's."""
    for place in model.walk():
        product = model.by_id.get(place.product)
        if product is not None and not product.is_reference:
            for body in product.bodies:
                yield BodyInPlace(product, place.path, body, place.placement)


def under(model: Model, products: Collection[str]) -> list[BodyInPlace]:
    """The placed bodies of some products and of all that stands in them."""
    chosen = set(products)
    above: dict[tuple[str, ...], bool] = {}
    inside = []
    for place in model.walk():
        over = bool(place.path) and above.get(place.path[:-1], False)
        above[place.path] = over or place.product in chosen
        product = model.by_id.get(place.product)
        if above[place.path] and product is not None and not product.is_reference:
            inside += [BodyInPlace(product, place.path, body, place.placement) for body in product.bodies]
    return inside


def scale_of(placement: Placement) -> float:
    """By how much a placement scales lengths; 1 for a motion or a mirror image."""
    determinant = float(np.linalg.det(np.asarray(placement, float).reshape(4, 4)[:3, :3]))
    scale = abs(determinant) ** (1 / 3)
    return 1.0 if abs(scale - 1.0) < 1e-12 else scale
