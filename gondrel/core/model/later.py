"""Shapes that are loaded into a model after its structure."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.census import Census
from gondrel.core.model.product import Product
from gondrel.core.model.provenance import Note
from gondrel.core.model.snapshot import Model

__all__ = ["LoadedShapes", "is_stand_in", "place_of_body", "standing_in", "waiting", "with_shapes"]


@dataclass(frozen=True, slots=True)
class LoadedShapes:
    """Bodies of products whose shapes waited in a file, by the records they name.

    Args:
        census: of the file with these, where that of its structure is known.
    """

    path: str
    bodies: Mapping[int, tuple[Body, ...]]
    notes: tuple[Note, ...] = ()
    census: Census | None = None


def waiting(model: Model, products: Iterable[str] | None = None) -> list[Product]:
    """The products whose shapes are not loaded; of some, and of what occurs in those, or of all."""
    if products is None:
        return [product for product in model.products if product.unread is not None]
    seen: dict[str, None] = {}
    front = list(products)
    while front:
        key = front.pop()
        if key not in seen and key in model.by_id:
            seen[key] = None
            front += [use.product for use in model.product(key).occurrences]
    return [product for product in model.products if product.id in seen and product.unread is not None]


def place_of_body(product: str, place: int) -> str:
    """The id of a body that was loaded into a product, by its place there from 1."""
    return f"{product}.b{place}"


_STANDS_FOR = Rgba(0.72, 0.75, 0.78)
_BOX = "box"


def is_stand_in(body: str) -> bool:
    """Whether the id of a body is that of a box that stands for a shape."""
    return body.startswith(f"{_BOX}:")


def standing_in(model: Model) -> Model:
    """The model with boxes where shapes wait, for looking at only; their meshes lie under their hashes."""
    if not model.unloaded:
        return model
    products = []
    for product in model.products:
        waits = product.unread
        if waits is not None and waits.box:
            key = _BOX + hashlib.sha256(repr(waits.box).encode()).hexdigest()
            body = Body(f"{_BOX}:{product.id}", BodyKind.SOLID, "", key, _STANDS_FOR)
            product = replace(product, bodies=(body,))
        products.append(product)
    return model.with_same_places(tuple(products))


def with_shapes(model: Model, loaded: LoadedShapes) -> Model:
    """The model with shapes where they waited."""
    products = []
    changed = False
    for product in model.products:
        waits = product.unread
        if waits is not None and waits.path == loaded.path and waits.record in loaded.bodies:
            bodies = tuple(
                replace(body, id=place_of_body(product.id, place))
                for place, body in enumerate(loaded.bodies[waits.record], 1)
            )
            product, changed = replace(product, bodies=bodies, unread=None), True
        products.append(product)
    if not changed:
        return model
    source = model.provenance
    if source is not None and source.file.path == loaded.path and loaded.census is not None:
        source = replace(source, census=loaded.census)
    notes = tuple(dict.fromkeys((*model.notes, *loaded.notes)))
    return model.with_same_places(tuple(products), provenance=source, notes=notes)
