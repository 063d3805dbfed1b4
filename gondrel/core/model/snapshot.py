"""The immutable model snapshot and the questions asked of it everywhere."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, field, fields, replace
from functools import cached_property
from operator import attrgetter
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

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


class Placed(NamedTuple):
    """One product in its place in the whole; of these there are tens of thousands.

    Args:
        path: occurrence ids from a root down, empty for a root itself.
        placement: product frame to model frame.
    """

    product: str
    path: tuple[str, ...]
    placement: Placement


_OF_PLACES = (
    "_places", "matrices", "lineage", "depth", "places_of", "quantities", "told_uses", "use_looks",
    "product_of_use",
)  # fmt: skip
"""What is known of a structure, whatever its products are besides."""
_USE_LOOK = attrgetter("id", "product", "colour", "own_colours")

_Beneath = tuple[list[str], list[tuple[str, ...]], NDArray[np.float64]]
"""What stands in a product, parents before children: products, paths and placements, (n, 16)."""


def _beneath(product: Product, known: Mapping[str, _Beneath]) -> _Beneath:
    """What stands in a product, by what stands in those that occur in it."""
    uses = product.occurrences
    own = np.array([use.placement for use in uses], np.float64).reshape(-1, 4, 4)
    if not any(use.product in known for use in uses):
        return [use.product for use in uses], [(use.id,) for use in uses], own.reshape(-1, 16)
    products: list[str] = []
    paths: list[tuple[str, ...]] = []
    rows: list[NDArray[np.float64]] = []
    for place, use in enumerate(uses):
        products.append(use.product)
        paths.append((use.id,))
        rows.append(own[place : place + 1])
        if use.product in known:
            inner, inner_paths, placements = known[use.product]
            products += inner
            paths += [(use.id, *path) for path in inner_paths]
            rows.append(own[place] @ placements.reshape(-1, 4, 4))
    return products, paths, np.concatenate(rows).reshape(-1, 16)


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

    def with_same_places(self, products: tuple[Product, ...], **changed: Any) -> Model:
        """The model with other products that occur as these do; what is known of their places stays.

        Args:
            changed: further fields.
        """
        same = replace(self, products=products, **changed)
        same.__dict__.update({key: self.__dict__[key] for key in _OF_PLACES if key in self.__dict__})
        return same

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

    @cached_property
    def matrices(self) -> NDArray[np.float64]:
        """The placements of all products in their places, (n, 4, 4) mm in the order of walk."""
        if not self._places:
            return np.empty((0, 4, 4))
        return np.array([place.placement for place in self._places]).reshape(-1, 4, 4)

    @cached_property
    def lineage(self) -> dict[tuple[str, ...], tuple[str, ...]]:
        """The products on the way to each place, itself last, by its path."""
        table: dict[tuple[str, ...], tuple[str, ...]] = {}
        for place in self._places:
            above = table[place.path[:-1]] if place.path else ()
            table[place.path] = (*above, place.product)
        return table

    @cached_property
    def places_of(self) -> dict[str, list[int]]:
        """Where in the order of walk each product stands."""
        places: dict[str, list[int]] = {}
        for at, place in enumerate(self._places):
            places.setdefault(place.product, []).append(at)
        return places

    def place(self, at: int) -> Placed:
        """A product in its place, by where it stands in the order of walk."""
        return self._places[at]

    def work_out_places(self, turn: Callable[[], None] = lambda: None) -> None:
        """Work out now what is known of the places of products; nothing where that can't be.

        Args:
            turn: called before each part of the work.
        """
        with suppress(MalformedFile, LimitExceeded):
            for known in (*_OF_PLACES, "unloaded"):
                turn()
                getattr(self, known)

    @cached_property
    def use_looks(self) -> tuple[int, ...]:
        """For each product a number for what occurs in it and in which colours: within one process the same
        where those are the same."""
        return tuple(hash(tuple(map(_USE_LOOK, product.occurrences))) for product in self.products)

    @cached_property
    def product_of_use(self) -> dict[str, str]:
        """Which product each occurrence places, by its id."""
        return {use.id: use.product for _, use in self.occurrences()}

    def _walk(self, roots: tuple[str, ...]) -> Iterator[Placed]:
        if self.count_of_places > MOST_PLACES:
            raise LimitExceeded(f"it places {self.count_of_places:,} components in all")
        beneath: dict[str, _Beneath] = {}
        for product in reversed(self.downwards):
            if product.occurrences:
                beneath[product.id] = _beneath(product, beneath)
        for start in roots:
            yield Placed(start, (), IDENTITY)
            if start in beneath:
                products, paths, placements = beneath[start]
                yield from map(Placed, products, paths, map(tuple, placements.tolist()))

    def occurrences(self) -> Iterator[tuple[Product, Occurrence]]:
        """Every occurrence once, with the product it occurs in."""
        for product in self.products:
            for occurrence in product.occurrences:
                yield product, occurrence

    @cached_property
    def told_uses(self) -> tuple[Occurrence, ...]:
        """The occurrences that say more of themselves than where they are: of many, mostly few."""
        return tuple(
            use
            for _, use in self.occurrences()
            if use.hidden or use.left_out or use.own_colours or use.colour is not None
        )

    @cached_property
    def quantities(self) -> Counter[str]:
        """How many times each product stands in the whole, roots counting once; worked out, not walked.

        Raises:
            MalformedFile: when a product contains itself.
        """
        quantities: Counter[str] = Counter(root for root in self.roots if root in self.by_id)
        for product in self.downwards:
            count = quantities[product.id]
            for use in product.occurrences if count else ():
                if use.product in self.by_id:
                    quantities[use.product] += count
        return Counter({key: count for key, count in quantities.items() if count})

    @cached_property
    def unloaded(self) -> frozenset[str]:
        """Ids of the products of which, or of what occurs in them, a shape is not loaded."""
        if all(product.unread is None for product in self.products):
            return frozenset()
        found: set[str] = set()
        for product in reversed(self.downwards):
            if product.unread is not None or any(use.product in found for use in product.occurrences):
                found.add(product.id)
        return frozenset(found)

    @cached_property
    def depth(self) -> int:
        """Levels of the structure: 1 for a single part. Raises MalformedFile as quantities."""
        levels = {root: 1 for root in self.roots if root in self.by_id}
        for product in self.downwards:
            below = levels.get(product.id, 0) + 1
            for use in product.occurrences if below > 1 else ():
                if use.product in self.by_id:
                    levels[use.product] = max(levels.get(use.product, 0), below)
        return max(levels.values(), default=0)

    @cached_property
    def downwards(self) -> list[Product]:
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
