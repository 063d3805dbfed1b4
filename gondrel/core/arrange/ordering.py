"""The order in which components stand in their assembly."""

from __future__ import annotations

import re
from collections.abc import Collection
from dataclasses import replace

from gondrel.core.arrange.properties import Edit
from gondrel.core.errors import UsageError
from gondrel.core.model.product import Occurrence
from gondrel.core.model.snapshot import Model

__all__ = ["MOVES", "SORTS", "move_in_order", "sort_components"]

MOVES = ("first", "earlier", "later", "last")
SORTS = ("number", "name")

_DIGITS = re.compile(r"(\d+)")


def move_in_order(model: Model, use_ids: Collection[str], to: str) -> Edit:
    """Components put first, last, or one place earlier or later among those beside them.

    Raises:
        UsageError: for another word, or when they stand there already.
    """
    if to not in MOVES:
        raise UsageError(f"components are put first, earlier, later or last (got {to!r})")
    wanted = set(use_ids)
    products, count = [], 0
    for product in model.products:
        moved = _moved(product.occurrences, wanted, to)
        if moved != product.occurrences:
            count += sum(use.id in wanted for use in product.occurrences)
            product = replace(product, occurrences=moved)
        products.append(product)
    if not count:
        raise UsageError(f"there is nothing to put {to}")
    whom = "a component" if count == 1 else f"{count} components"
    return f"Put {whom} {to}", replace(model, products=tuple(products))


def _moved(uses: tuple[Occurrence, ...], wanted: set[str], to: str) -> tuple[Occurrence, ...]:
    chosen = [use for use in uses if use.id in wanted]
    others = [use for use in uses if use.id not in wanted]
    if not chosen or not others:
        return uses
    if to in ("first", "last"):
        return (*chosen, *others) if to == "first" else (*others, *chosen)
    turned = list(uses) if to == "earlier" else list(uses)[::-1]
    for place in range(1, len(turned)):
        if turned[place].id in wanted and turned[place - 1].id not in wanted:
            turned[place - 1], turned[place] = turned[place], turned[place - 1]
    return tuple(turned if to == "earlier" else turned[::-1])


def sort_components(model: Model, product_ids: Collection[str], by: str) -> Edit:
    """The components of assemblies in the order of their numbers or names, digits as numbers.

    Raises:
        UsageError: for another word, or when they stand so already.
    """
    if by not in SORTS:
        raise UsageError(f"components are sorted by number or name (got {by!r})")
    products, count = [], 0
    for product in model.products:
        if product.id in product_ids:
            ordered = tuple(sorted(product.occurrences, key=lambda use: _key(model, use, by)))
            count += ordered != product.occurrences
            product = replace(product, occurrences=ordered)
        products.append(product)
    if not count:
        raise UsageError(f"they stand by {by} already")
    whom = "an assembly" if count == 1 else f"{count} assemblies"
    return f"Sort the components of {whom} by {by}", replace(model, products=tuple(products))


def _key(model: Model, use: Occurrence, by: str) -> tuple[tuple[int, int, str], ...]:
    product = model.product(use.product)
    text = product.number or product.name if by == "number" else use.name or product.name
    parts = _DIGITS.split(text.casefold())
    return tuple((0, int(part), "") if part.isdigit() else (1, 0, part) for part in parts if part)
