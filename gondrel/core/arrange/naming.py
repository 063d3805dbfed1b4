"""Names and numbers of many products at once: by pattern, or found and replaced."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

from gondrel.core.arrange.properties import TEXT_FIELDS, Edit
from gondrel.core.errors import UsageError
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model

__all__ = ["PATTERN_WORDS", "by_pattern", "find_and_replace", "rename_by_pattern", "replaced"]

PATTERN_WORDS = {
    "n": "counts up: {n} 1, {n:3} 001, {n:3:10} from 010",
    "name": "the name it has",
    "number": "the number it has",
    "revision": "its revision",
    "material": "its material",
    "layer": "the layer its first body is on",
}
"""What stands in braces in a pattern, and what it becomes."""

_SLOT = re.compile(r"\{(\w+)((?::\d+){0,2})\}")


def by_pattern(products: Sequence[Product], pattern: str) -> list[str]:
    """What a pattern makes of each product, in their order.

    Raises:
        UsageError: for a word that there is not.

    Example:
        >>> by_pattern([Product("a", "", "Bolt"), Product("b", "", "Nut")], "WG-{n:3:10} {name}")
        ['WG-010 Bolt', 'WG-011 Nut']
    """
    for word, options in _SLOT.findall(pattern):
        if word not in PATTERN_WORDS or (options and word != "n"):
            raise UsageError(f"there is no {{{word}{options}}} in a pattern", hint=", ".join(PATTERN_WORDS))
    pieces = list(_pieces(pattern))
    return [
        "".join([of(product, place) for of in pieces]).strip() for place, product in enumerate(products)
    ]


def _pieces(pattern: str) -> Iterator[Callable[[Product, int], str]]:
    """What gives each stretch of a pattern: text as it is, a word of a product, a counted number."""
    end = 0
    for match in _SLOT.finditer(pattern):
        if match.start() > end:
            yield partial(_literal, pattern[end : match.start()])
        word, options = match[1], [int(o) for o in match[2].split(":") if o]
        if word == "n":
            width, start = [*options, *(0, 1)[len(options) :]]
            yield partial(_counted, max(width, 1), start)
        else:
            yield _WORDS[word]
        end = match.end()
    if end < len(pattern):
        yield partial(_literal, pattern[end:])


def _literal(text: str, product: Product, place: int) -> str:
    return text


def _counted(width: int, start: int, product: Product, place: int) -> str:
    return f"{place + start:0{width}d}"


def _layer_of(product: Product, place: int) -> str:
    layers = product.bodies[0].layers if product.bodies else ()
    return layers[0] if layers else ""


_WORDS: dict[str, Callable[[Product, int], str]] = {
    "name": lambda product, _: product.name,
    "number": lambda product, _: product.number,
    "revision": lambda product, _: product.revision,
    "material": lambda product, _: product.material.name if product.material else "",
    "layer": _layer_of,
}


def rename_by_pattern(model: Model, ids: Sequence[str], field: str, pattern: str) -> Edit:
    """Set a text field of products by a pattern.

    Raises:
        UsageError: for an unknown field or word, or when nothing is chosen.
    """
    products = _chosen(model, ids, field)
    return _set(model, field, products, by_pattern(products, pattern), f"by the pattern {pattern}")


def replaced(texts: Sequence[str], find: str, put: str, *, regular: bool, case: bool = True) -> list[str]:
    """Texts with what is found replaced.

    Args:
        regular: whether it is a regular expression; put may name its groups then, as \\1.
        case: whether capitals count.

    Raises:
        UsageError: when the expression makes no sense.
    """
    if not find:
        raise UsageError("there is nothing to find")
    try:
        pattern = re.compile(find if regular else re.escape(find), 0 if case else re.IGNORECASE)
        return [pattern.sub(put if regular else lambda _: put, text) for text in texts]
    except (re.error, IndexError) as error:
        raise UsageError(f"{find!r} is no regular expression: {error}") from None


def find_and_replace(
    model: Model, ids: Sequence[str], field: str, find: str, put: str, *, regular: bool = False,
    case: bool = True,
) -> Edit:  # fmt: skip
    """Find and replace in a text field of products. Raises UsageError as replaced does, or when it is found
    nowhere."""
    products = _chosen(model, ids, field)
    before = [str(getattr(product, field)) for product in products]
    after = replaced(before, find, put, regular=regular, case=case)
    changed = [(p, text) for p, was, text in zip(products, before, after, strict=True) if was != text]
    if not changed:
        raise UsageError(f"{find!r} is in none of the {TEXT_FIELDS[field]}s")
    return _set(model, field, [p for p, _ in changed], [t for _, t in changed], f"{find} to {put}")


def _chosen(model: Model, ids: Sequence[str], field: str) -> list[Product]:
    if field not in TEXT_FIELDS:
        raise UsageError(f"there is no field {field!r}", hint=", ".join(TEXT_FIELDS))
    products = [model.by_id[i] for i in dict.fromkeys(ids) if i in model.by_id]
    if not products:
        raise UsageError("nothing is selected to change")
    return products


def _set(model: Model, field: str, products: Sequence[Product], texts: Sequence[str], how: str) -> Edit:
    values: dict[str, dict[str, Any]] = {p.id: {field: t} for p, t in zip(products, texts, strict=True)}
    changed = tuple(replace(p, **values[p.id]) if p.id in values else p for p in model.products)
    return f"Set {TEXT_FIELDS[field]} of {len(products)} items {how}", replace(model, products=changed)
