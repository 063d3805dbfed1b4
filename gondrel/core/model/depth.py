"""Depth images of triangles: what is nearest in each picture element.

Source: the depth buffer of any textbook of computer graphics.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

__all__ = ["nearest_owners", "turned"]

_MOST_TESTED = 3_000_000

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def nearest_owners(view: Floats, owners: Ints, size: tuple[int, int]) -> Ints:
    """The owner that is nearest in each picture element, -1 where there is none.

    Args:
        view: (n, 3, 3) corners in picture elements about the middle of the picture, the third towards the
            eye; size: width and height.

    Returns: (height * width,), the lowest row first.
    """
    width, height = size
    flat = view[:, :, :2] + np.array([width, height]) / 2
    low = np.clip(np.ceil(flat.min(axis=1) - 0.5), 0, size).astype(np.int64)
    high = np.clip(np.floor(flat.max(axis=1) - 0.5), -1, np.array(size) - 1).astype(np.int64)
    spans = np.maximum(high - low + 1, 0)
    counts = spans[:, 0] * spans[:, 1]
    depths = np.full(width * height, -np.inf)
    nearest = np.full(width * height, -1, np.int64)
    chosen = np.flatnonzero(counts)
    for part in _parts(counts[chosen]):
        which = chosen[part]
        pixel, depth, owner = _drawn(flat[which], view[which, :, 2], owners[which], low[which],
                                     spans[which], width)  # fmt: skip
        order = np.lexsort((depth, pixel))
        last = order[np.flatnonzero(np.diff(pixel[order], append=-1))]
        nearer = last[depth[last] > depths[pixel[last]]]
        depths[pixel[nearer]], nearest[pixel[nearer]] = depth[nearer], owner[nearer]
    return nearest


def _parts(counts: Ints) -> Iterator[slice]:
    """Runs of triangles with a bounded number of picture elements to be tested."""
    ends = np.cumsum(counts)
    start = 0
    while start < len(counts):
        before = int(ends[start - 1]) if start else 0
        stop = max(start + 1, int(np.searchsorted(ends, before + _MOST_TESTED, "right")))
        yield slice(start, stop)
        start = stop


def _drawn(
    flat: Floats, heights: Floats, owners: Ints, low: Ints, spans: Ints, width: int
) -> tuple[Ints, Floats, Ints]:
    """Picture elements whose middle a triangle covers, with its height there and its owner."""
    counts = spans[:, 0] * spans[:, 1]
    which = np.repeat(np.arange(len(counts)), counts)
    place = np.arange(len(which)) - np.repeat(np.cumsum(counts) - counts, counts)
    x = low[which, 0] + place % spans[which, 0]
    y = low[which, 1] + place // spans[which, 0]
    a, b, c = flat[:, 0], flat[:, 1], flat[:, 2]
    whole = turned(a, b, c)
    usable = np.abs(whole) > 1e-12
    whole = np.where(usable, whole, 1.0)
    point = np.column_stack([x, y]) + 0.5
    u = turned(point, b[which], c[which]) / whole[which]
    v = turned(a[which], point, c[which]) / whole[which]
    inside = (u >= 0) & (v >= 0) & (u + v <= 1) & usable[which]
    which, u, v = which[inside], u[inside], v[inside]
    height = heights[which, 0] * u + heights[which, 1] * v + heights[which, 2] * (1 - u - v)
    return y[inside] * width + x[inside], height, owners[which]


def turned(a: Floats, b: Floats, c: Floats) -> Floats:
    """Twice the area of triangles in the picture, above zero where they turn to the left."""
    made: Floats = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    return made
