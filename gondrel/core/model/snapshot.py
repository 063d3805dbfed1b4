"""The immutable model snapshot and the questions asked of it everywhere."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field, fields, replace
from functools import cached_property
from typing import Any

import numpy as np

from gondrel.core.errors import LimitExceeded, MalformedFile
from gondrel.core.model.body import Body
from gondrel.core.model.particulars import Particular
from gondrel.core.model.product import IDENTITY, Occurrence, Placement, Product
from gondrel.core.model.provenance import Note, Provenance
from gondrel.core.model.units import MILLIMETRE, LengthUnit

__all__ = ["MOST_PLACES", "Model", "Placed", "compose"]

MOST_PLACES = 2_000_000
"""How many products in their places a model may have; a hundred times the largest that was tried."""


def compose(parent: Placement, child: Placement) -> Placement:
    """The placement of a child's child in the parent's frame: the matrix product."""
    if parent is IDENTITY:
        return child
    product = np.asarray(parent).reshape(4, 4) @ np.asarray(child).reshape(4, 4)
    return tuple(product.ravel().tolist())


@dataclass(frozen=True, slots=True)
class Placed:
    """One product in its place in the whole.

    Args:
        path: occurrence ids from a root down, empty for a root itself.
        placement: product frame to model frame.
    """

    product: str
    path: tuple[str, ...]
    placement: Placement


@dataclass(frozen=True)
class Model:
    """All products of a crossing at one moment. Never changed: edits make a new one.

    Args:
        products: every product once.
        roots: ids of the products that stand on their own.
        units: the unit the source was written in (lengths inside are always mm).
        particulars: what is said of layers beside their names.
    """

    products: tuple[Product, ...] = ()
    roots: tuple[str, ...] = ()
    units: LengthUnit = MILLIMETRE
    provenance: Provenance | None = None
    notes: tuple[Note, ...] = field(default=())
    particulars: tuple[Particular, ...] = ()

    @property
    def unit_told(self) -> str:
        """Key of the unit that the source says or that was asked for; empty where one was only assumed."""
        source = self.provenance
        if source is None or source.file.length_unit or dict(source.settings).get("unit"):
            return self.units.key
        return ""

    def __getstate__(self) -> dict[str, Any]:
        """The fields only: what was worked out from them may grow while another thread pickles."""
        return {f.name: getattr(self, f.name) for f in fields(self)}

    def __setstate__(self, state: dict[str, Any]) -> None:
        self.__dict__.update(state)

    @cached_property
    def by_id(self) -> dict[str, Product]:
        """Products by id."""
        return {product.id: product for product in self.products}

    def product(self, product_id: str) -> Product:
        """The product with this id. Raises KeyError when there is none."""
        return self.by_id[product_id]

    def bodies(self) -> Iterator[tuple[Product, Body]]:
        """Every body once, with its product."""
        for product in self.products:
            for body in product.bodies:
                yield product, body

    def blobs(self) -> tuple[str, ...]:
        """Content hashes of all bodies, each once, in order."""
        return tuple(dict.fromkeys(body.blob for _, body in self.bodies()))

    def with_product(self, product: Product) -> Model:
        """The model with the product of the same id replaced."""
        return replace(self, products=tuple(product if p.id == product.id else p for p in self.products))

    def with_notes(self, notes: tuple[Note, ...]) -> Model:
        """The model with other notes; what was worked out from its structure stays known."""
        noted = replace(self, notes=notes)
        names = {f.name for f in fields(self)}
        noted.__dict__.update({key: kept for key, kept in self.__dict__.items() if key not in names})
        return noted

    def walk(self, root: str | None = None) -> Iterator[Placed]:
        """Every product in its place, parents before children, from one root or all."""
        yield from self._walk((root,)) if root else self._places

    @cached_property
    def _places(self) -> tuple[Placed, ...]:
        """Every product in its place from all roots; kept, since it is asked for again and again."""
        return tuple(self._walk(self.roots))

    def _walk(self, roots: tuple[str, ...]) -> Iterator[Placed]:
        if self.count_of_places > MOST_PLACES:
            raise LimitExceeded(f"it places {self.count_of_places:,} components in all")
        for start in roots:
            stack = [Placed(start, (), IDENTITY)]
            while stack:
                place = stack.pop()
                yield place
                product = self.by_id.get(place.product)
                if product is None:
                    continue
                for occurrence in reversed(product.occurrences):
                    stack.append(
                        Placed(
                            occurrence.product,
                            (*place.path, occurrence.id),
                            compose(place.placement, occurrence.placement),
                        )
                    )

    def occurrences(self) -> Iterator[tuple[Product, Occurrence]]:
        """Every occurrence once, with the product it occurs in."""
        for product in self.products:
            for occurrence in product.occurrences:
                yield product, occurrence

    @cached_property
    def quantities(self) -> Counter[str]:
        """How many times each product stands in the whole, roots counting once; worked out, not walked.

        Raises:
            MalformedFile: when a product contains itself.
        """
        quantities: Counter[str] = Counter(root for root in self.roots if root in self.by_id)
        for product in self._downwards:
            count = quantities[product.id]
            for use in product.occurrences if count else ():
                if use.product in self.by_id:
                    quantities[use.product] += count
        return Counter({key: count for key, count in quantities.items() if count})

    @cached_property
    def depth(self) -> int:
        """Levels of the structure: 1 for a single part. Raises MalformedFile as quantities."""
        levels = {root: 1 for root in self.roots if root in self.by_id}
        for product in self._downwards:
            below = levels.get(product.id, 0) + 1
            for use in product.occurrences if below > 1 else ():
                if use.product in self.by_id:
                    levels[use.product] = max(levels.get(use.product, 0), below)
        return max(levels.values(), default=0)

    @cached_property
    def _downwards(self) -> list[Product]:
        """Every product before all that occur in it."""
        above: Counter[str] = Counter()
        for product in self.products:
            above.update({use.product for use in product.occurrences})
        ready = [product for product in self.products if not above[product.id]]
        products: list[Product] = []
        while ready:
            product = ready.pop()
            products.append(product)
            for below in {use.product for use in product.occurrences}:
                above[below] -= 1
                if not above[below] and below in self.by_id:
                    ready.append(self.by_id[below])
        if len(products) < len(self.products):
            done = {product.id for product in products}
            ring = next(product for product in self.products if product.id not in done)
            raise MalformedFile("an assembly contains itself", where=ring.label)
        return products

    @property
    def count_of_places(self) -> int:
        """How many products stand in the whole, each in each of its places."""
        return sum(self.quantities.values())

    def check_structure(self) -> None:
        """See that the structure is one that can be walked through.

        Raises:
            MalformedFile: when a product contains itself, or one that occurs or is a root is not there.
            LimitExceeded: when it places more than can be shown.
        """
        for root in self.roots:
            if root not in self.by_id:
                raise MalformedFile("a root of the structure is not there", where=root)
        for parent, use in self.occurrences():
            if use.product not in self.by_id:
                raise MalformedFile("a component is of a product that is not there", where=parent.label)
        if self.count_of_places > MOST_PLACES:
            text = f"it places {self.count_of_places:,} components in all"
            raise LimitExceeded(f"{text}; no more than {MOST_PLACES:,} can be taken in")
