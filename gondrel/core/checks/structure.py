"""A model as the checks of its structure see it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore

__all__ = ["Structure", "shared_by_products"]


@dataclass(frozen=True, slots=True)
class Structure:
    """A model and the store of its bodies, whose figures are measured once and kept there."""

    model: Model
    store: BlobStore


def shared_by_products(
    products: Iterable[Product], text_of: Callable[[Product], str]
) -> dict[str, list[Product]]:
    """Texts that several products have, with those products."""
    owners: dict[str, list[Product]] = defaultdict(list)
    for product in products:
        if text_of(product).strip():
            owners[text_of(product)].append(product)
    return {text: several for text, several in owners.items() if len(several) > 1}
