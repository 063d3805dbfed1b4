"""Which rows are hidden when some are isolated."""

from __future__ import annotations

from collections.abc import Iterable

from gondrel.core.model import Model
from gondrel.ui.presenters.rows import Chain, Row, build_structure, chain_of_product, products_of

__all__ = ["isolated", "sent_hidden"]


def isolated(model: Model, chains: Iterable[Chain]) -> set[Chain]:
    """The rows to hide so that only the given rows are left to be seen."""
    wanted = tuple(chains)
    products = set(products_of(model, [c for c in wanted if _is_product(c)]))
    places = [c for c in wanted if not _is_product(c)]
    holders = _holders(model, products)
    hidden: set[Chain] = set()
    stack = list(build_structure(model))
    while stack:
        row = stack.pop()
        if row.product.id in products or any(_is_within(row.chain, place) for place in places):
            continue
        if row.product.id in holders or any(_is_within(place, row.chain) for place in places):
            stack += row.children
            continue
        hidden.add(_chain_of(row))
    return hidden


def sent_hidden(model: Model) -> set[Chain]:
    """The rows that the sender does not show, and reference geometry."""
    parts = {
        p.id
        for p in model.products
        if p.is_reference or (p.bodies and not p.occurrences and all(b.hidden for b in p.bodies))
    }
    hidden: set[Chain] = {chain_of_product(part) for part in parts}
    uses = {use.id for use in model.told_uses if use.hidden}
    if uses:
        for place in model.walk():
            if place.path and place.path[-1] in uses:
                hidden.add(tuple(frozenset({step}) for step in place.path))
    return hidden


def _chain_of(row: Row) -> Chain:
    return row.chain or (frozenset({f"product:{row.product.id}"}),)


def _is_product(chain: Chain) -> bool:
    return bool(chain) and any(step.startswith("product:") for step in chain[0])


def _is_within(inner: Chain, outer: Chain) -> bool:
    """Whether a row lies in another, or is it."""
    return len(inner) >= len(outer) and all(a & b for a, b in zip(inner, outer, strict=False))


def _holders(model: Model, products: set[str]) -> set[str]:
    """Products that hold one of the given products somewhere below them."""
    users: dict[str, set[str]] = {}
    for owner, occurrence in model.occurrences():
        users.setdefault(occurrence.product, set()).add(owner.id)
    holders: set[str] = set()
    stack = list(products)
    while stack:
        for user in users.get(stack.pop(), ()):
            if user not in holders:
                holders.add(user)
                stack.append(user)
    return holders
