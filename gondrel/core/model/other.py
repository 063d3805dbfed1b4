"""A file as another reader sees it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from gondrel.core.model.product import Placement

__all__ = ["OtherOccurrence", "OtherProduct", "OtherReading"]


@dataclass(frozen=True, slots=True)
class OtherOccurrence:
    """A product placed in another; child is its place in the reading."""

    child: int
    placement: Placement
    name: str = ""


@dataclass(frozen=True, slots=True)
class OtherProduct:
    """A product: what occurs in it, or its shape.

    Args:
        kinds: count of its bodies by kind; volume, area: of them together, mm3 and mm2.
        colours: #rrggbb and the area of the faces that show it, mm2.
    """

    name: str
    uses: tuple[OtherOccurrence, ...] = ()
    kinds: tuple[tuple[str, int], ...] = ()
    volume: float = 0.0
    area: float = 0.0
    colours: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True, slots=True)
class OtherReading:
    """Products, and the places of those that stand on their own."""

    products: tuple[OtherProduct, ...]
    roots: tuple[int, ...]

    @classmethod
    def joined(cls, readings: Sequence[OtherReading]) -> OtherReading:
        """The readings of several files as one."""
        products: list[OtherProduct] = []
        roots: list[int] = []
        for each in readings:
            start = len(products)
            roots += [start + root for root in each.roots]
            for product in each.products:
                uses = tuple(replace(use, child=start + use.child) for use in product.uses)
                products.append(replace(product, uses=uses))
        return cls(tuple(products), tuple(roots))
