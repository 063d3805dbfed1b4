"""What of a model is sent: all of it, some items with what is in them, or what fits a query."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from fnmatch import fnmatchcase

from gondrel.core.arrange.cutdown import cut_down
from gondrel.core.errors import UsageError
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model

__all__ = ["queried", "scoped"]

_TERMS = ("kind", "layer", "material", "colour", "number", "name")


def queried(model: Model, queries: Sequence[str]) -> list[str]:
    """Ids of the products that fit any of some queries.

    Args:
        queries: patterns of names or numbers with * and ?, or a term with one: kind:solid, layer:Castings,
            material:*steel*, colour:#8a949c, number:PG-1*, name:*bolt*.

    Raises:
        UsageError: when a term is not known or nothing fits.
    """
    chosen = [
        p.id for p in model.products if not p.is_reference and any(_fits(p, query) for query in queries)
    ]
    if not chosen:
        raise UsageError(f"no item fits {', '.join(queries)}")
    return chosen


def _fits(product: Product, query: str) -> bool:
    term, colon, value = query.partition(":")
    if not colon:
        texts = [product.name, product.number]
    elif term not in _TERMS:
        raise UsageError(f"there is no term {term!r} of a query", hint=", ".join(_TERMS))
    else:
        query, texts = value, _texts(product, term)
    return any(fnmatchcase(text.casefold(), query.casefold()) for text in texts if text)


def _texts(product: Product, term: str) -> list[str]:
    if term in ("number", "name"):
        return [str(getattr(product, term))]
    if term == "material":
        return [product.material.name] if product.material is not None else []
    if term == "kind":
        kinds = [body.kind.value for body in product.bodies]
        return [*kinds, "assembly"] if product.is_assembly else kinds
    if term == "layer":
        return [layer for body in product.bodies for layer in body.layers]
    return [body.colour.hex for body in product.bodies if body.colour is not None]


def scoped(model: Model, product_ids: Collection[str]) -> tuple[Model, tuple[str, ...]]:
    """Some products with all that is in them: one by itself in its own frame, several where they stand, in
    the assemblies that hold them.

    Returns: what is sent, and what stays here, in words.

    Raises:
        UsageError: when none is chosen or none holds a body.
    """
    chosen = [p.id for p in model.products if p.id in set(product_ids)]
    if not chosen:
        raise UsageError("nothing is chosen to be sent")
    if set(chosen) >= set(model.roots):
        return model, ()
    inside = {place.product for each in chosen for place in model.walk(each)}
    parts = [i for i in inside if model.product(i).bodies]
    if not parts:
        raise UsageError("what is chosen holds no body")
    if len(chosen) == 1:
        products = tuple(p for p in model.products if p.id in inside)
        left = replace(model, products=products, roots=(chosen[0],))
    else:
        everything = {p.id for p in model.products if p.bodies and not p.is_reference}
        left = model if set(parts) >= everything else cut_down(model, parts, keep=True)[1]
    count, whole = len(parts), sum(bool(p.bodies) for p in model.products)
    return left, (f"Only {count} of {whole} parts are sent, as chosen.",) if count < whole else ()
