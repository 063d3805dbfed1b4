"""What stands beneath a product in the structure."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.model.body import Body
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model

__all__ = ["bodies_beneath", "parts_in_assemblies"]


def bodies_beneath(model: Model, product_id: str) -> Iterator[Body]:
    """The bodies of a product and of all that occurs in it, each once."""
    seen, stack = {product_id}, [product_id]
    while stack:
        product = model.product(stack.pop())
        yield from product.bodies
        fresh = [o.product for o in product.occurrences if o.product not in seen]
        fresh = [each for each in dict.fromkeys(fresh) if each in model.by_id]
        seen.update(fresh)
        stack += fresh


def parts_in_assemblies(model: Model) -> list[Product]:
    """The products with bodies and without components that stand in an assembly: those that get files of
    their own where an assembly goes as several."""
    return [p for p in model.products if p.bodies and not p.occurrences and p.id not in model.roots]
