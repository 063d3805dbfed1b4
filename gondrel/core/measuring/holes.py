"""The table of holes of a model's parts."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import groupby

import numpy as np

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.derive import holes_of_body
from gondrel.core.model.measures import HoleRow, RoundHole
from gondrel.core.model.product import Product
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["bores_of", "hole_table"]

_DIGITS = 5


def hole_table(
    products: Iterable[Product], store: BlobStore, *, progress: Progress = SILENT
) -> list[HoleRow]:
    """The holes of parts, equal parallel ones of a body in one row, widest first; of bodies that the kernel
    fails over none."""
    rows = []
    for product in progress.each(list(products), "Looking for holes"):
        for body in product.bodies:
            try:
                holes = holes_of_body(store, body.blob)
            except KernelRefused:
                continue
            for _, equal in groupby(sorted(holes, key=_size), key=_size):
                rows.append(HoleRow(product.id, body.blob, tuple(equal)))
    return rows


def bores_of(product: Product, store: BlobStore) -> list[float]:
    """Diameters of the holes of a part, mm."""
    return [row.holes[0].diameter for row in hole_table([product], store) for _ in row.holes]


def _size(hole: RoundHole) -> tuple[float, ...]:
    """What equal holes have in common; holes that are open at both ends go either way."""
    way = np.round(hole.direction, _DIGITS) + 0.0
    if hole.is_through and tuple(way) < tuple(-way):
        way = -way + 0.0
    return (
        -round(hole.diameter, _DIGITS), round(hole.depth, _DIGITS), float(hole.is_through),
        *(float(v) for v in way),
    )  # fmt: skip
