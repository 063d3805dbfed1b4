"""A model in which nothing is placed mirrored or scaled: parts are made of that shape instead."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gondrel.core.kernel.base.shape import moved_blob
from gondrel.core.model.places import Change, split_placement
from gondrel.core.model.product import Occurrence, Product, Reference
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore

__all__ = ["rigidly_placed"]


def rigidly_placed(model: Model, store: BlobStore) -> Model:
    """The model with a part made for each shape that a part takes where it is mirrored or scaled.

    The made bodies are put in the store. The parts that stand nowhere as they are fall away.

    Raises:
        MalformedFile: when a placement shears. KernelRefused: when a body can't be made.
    """
    if not any(split_placement(use.placement)[1] for _, use in model.occurrences()):
        return model
    making = _Making(model, store)
    roots = tuple(making.product(root, ()) for root in model.roots)
    return replace(model, products=tuple(making.products.values()), roots=roots)


class _Making:
    def __init__(self, model: Model, store: BlobStore) -> None:
        self.model, self.store = model, store
        self.products: dict[str, Product] = {}

    def product(self, product_id: str, change: Change) -> str:
        key = product_id + "".join(f",{value:.9g}" for value in change)
        if key in self.products:
            return key
        product = self.model.product(product_id)
        self.products[key] = product  # parents stand before their parts
        wide = np.eye(4)
        if change:
            wide[:3, :3] = np.asarray(change).reshape(3, 3)
        placement = tuple(wide.ravel().tolist())
        mark = key[len(product_id) :]
        bodies = product.bodies
        if change:
            bodies = tuple(
                replace(
                    b, id=b.id + mark, blob=self.store.put(moved_blob(self.store.get(b.blob), placement))
                )
                for b in bodies
            )
        uses = tuple(self.use(use, wide, mark) for use in product.occurrences)
        validation = None if change else product.validation
        self.products[key] = replace(
            product, id=key, bodies=bodies, occurrences=uses, validation=validation,
            references=tuple(_changed(each, wide) for each in product.references) if change
            else product.references,
        )  # fmt: skip
        return key

    def use(self, use: Occurrence, wide: np.ndarray, mark: str) -> Occurrence:  # type: ignore[type-arg]
        rigid, below = split_placement(wide @ np.asarray(use.placement).reshape(4, 4))
        return replace(use, id=use.id + mark, product=self.product(use.product, below), placement=rigid)


def _changed(reference: Reference, wide: np.ndarray) -> Reference:  # type: ignore[type-arg]
    """Reference geometry where a scaled or mirrored part has it: z and x go with it, y as the right hand
    has it."""
    matrix = wide @ np.asarray(reference.placement).reshape(4, 4)
    z = matrix[:3, 2] / np.linalg.norm(matrix[:3, 2])
    x = matrix[:3, 0] - (matrix[:3, 0] @ z) * z
    x /= np.linalg.norm(x)
    matrix[:3, :3] = np.column_stack([x, np.cross(z, x), z])
    return replace(reference, placement=tuple(matrix.ravel().tolist()))
