"""Knowing again what was put in before, though its file was written anew: figures a last digit off, bodies
told in other records.

What the sender's figures were (validation, centroids) belongs to a file, not to what a part is.
"""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

from sqlalchemy import Connection

from gondrel.core.register.looking import children_of, product_of, revisions_of_item

__all__ = ["SameBody", "alike_revision", "pairs_to_compare"]

SameBody = Callable[[str, str], bool]
"""Whether two bodies, by their hashes, are one shape in one place: the first of the register."""

_OF_FILE = frozenset({"validation", "centroid", "witness", "blob", "id"})
_CLOSE = 1e-9
_MOST = 12
"""So many revisions of an item are looked at, the newest first."""

Json = Mapping[str, Any]
Uses = Sequence[tuple[str, Json]]


def _is_close(one: object, other: object) -> bool:
    """Whether two plain values say the same, numbers to a share or mm of 1e-9."""
    if isinstance(one, float) or isinstance(other, float):
        return (
            isinstance(one, int | float) and isinstance(other, int | float)
            and not isinstance(one, bool) and not isinstance(other, bool)
            and math.isclose(one, other, rel_tol=_CLOSE, abs_tol=_CLOSE)
        )  # fmt: skip
    if isinstance(one, Mapping) and isinstance(other, Mapping):
        keys = (one.keys() | other.keys()) - _OF_FILE
        return all(k in one and k in other and _is_close(one[k], other[k]) for k in keys)
    if isinstance(one, list | tuple) and isinstance(other, list | tuple):
        return len(one) == len(other) and all(map(_is_close, one, other))
    return one == other


def _blobs(product: Json) -> list[str]:
    return [body["blob"] for body in product["bodies"]]


def _candidates(connection: Connection, number: str, product: Json) -> Iterator[tuple[str, Json]]:
    """Revisions of an item that say the same, and what they are, the newest first."""
    for key in revisions_of_item(connection, number)[:_MOST]:
        theirs = json.loads(product_of(connection, key))
        if _is_close(theirs, product):
            yield key, theirs


def pairs_to_compare(
    connection: Connection, products: Sequence[tuple[str, Json]]
) -> Iterator[tuple[str, str]]:
    """Bodies of the register and of products, given by number and plain JSON, on whose being the same it
    hangs whether a product is known."""
    for number, product in products:
        for _, theirs in _candidates(connection, number, product):
            yield from (
                pair for pair in zip(_blobs(theirs), _blobs(product), strict=True) if pair[0] != pair[1]
            )


def alike_revision(
    connection: Connection, number: str, product: Json, uses: Uses, same: SameBody
) -> str | None:
    """The id of the newest revision of an item that is the same as a product; None where none is.

    Args:
        uses: ids of the revisions it uses, and occurrences as plain JSON.
    """
    for key, theirs in _candidates(connection, number, product):
        pairs = zip(_blobs(theirs), _blobs(product), strict=True)
        if not all(one == other or same(one, other) for one, other in pairs):
            continue
        there = children_of(connection, key)
        if [child for child, _ in there] == [child for child, _ in uses] and _is_close(
            [use for _, use in there], [use for _, use in uses]
        ):
            return key
    return None
