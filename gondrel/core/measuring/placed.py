"""Bodies of a model in their places, with their boxes."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.body import Body, BodyFacts
from gondrel.core.model.product import Placement, Product
from gondrel.core.model.snapshot import Model

__all__ = ["PlacedBody", "box_in_place", "path_label", "placed_bodies", "scale_of", "under"]

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class PlacedBody:
    """A body in its place: its part, the occurrence ids that lead to it, its frame in the whole."""

    product: Product
    path: tuple[str, ...]
    body: Body
    placement: Placement


def placed_bodies(model: Model) -> Iterator[PlacedBody]:
    """Every body in each of its places, but none that only stands for another file's."""
    for place in model.walk():
        product = model.by_id.get(place.product)
        if product is not None and not product.is_reference:
            for body in product.bodies:
                yield PlacedBody(product, place.path, body, place.placement)


def under(model: Model, products: Collection[str]) -> list[PlacedBody]:
    """The placed bodies of some products and of all that stands in them."""
    chosen = set(products)
    above: dict[tuple[str, ...], bool] = {}
    inside = []
    for place in model.walk():
        over = bool(place.path) and above.get(place.path[:-1], False)
        above[place.path] = over or place.product in chosen
        product = model.by_id.get(place.product)
        if above[place.path] and product is not None and not product.is_reference:
            inside += [PlacedBody(product, place.path, body, place.placement) for body in product.bodies]
    return inside


def box_in_place(facts: BodyFacts, placement: Placement) -> Floats:
    """The box of a placed body along the axes of the whole, (2, 3) mm; never too small."""
    low, high = np.array(facts.bbox[:3]), np.array(facts.bbox[3:])
    matrix = np.asarray(placement, float).reshape(4, 4)
    middle = matrix[:3, :3] @ ((low + high) / 2) + matrix[:3, 3]
    reach = np.abs(matrix[:3, :3]) @ ((high - low) / 2)
    return np.array([middle - reach, middle + reach])


def scale_of(placement: Placement) -> float:
    """By how much a placement scales lengths; 1 for a motion or a mirror image."""
    determinant = float(np.linalg.det(np.asarray(placement, float).reshape(4, 4)[:3, :3]))
    scale = abs(determinant) ** (1 / 3)
    return 1.0 if abs(scale - 1.0) < 1e-12 else scale


def path_label(model: Model, path: tuple[str, ...], product: str, uses: Mapping[str, str]) -> str:
    """What people call a place: the names of the components that lead to it, with slashes.

    Args:
        uses: label of each component by occurrence id.
    """
    return "/".join(uses.get(step, step) for step in path) or model.product(product).label
