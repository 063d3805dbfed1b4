"""Polygons in space as triangles."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["triangles_of_polygon"]


def triangles_of_polygon(points: NDArray[np.float64]) -> list[tuple[int, int, int]]:
    """Triangles (indices into points) of a simple, about plane polygon (n, 3), turned as it is.

    Source: cutting ears, one corner after the other that has no other corner in its triangle; where
    none is left (the polygon crosses itself) the rest is cut as a fan.
    """
    count = len(points)
    normal = np.cross(points, np.roll(points, -1, axis=0)).sum(axis=0)
    if not float(np.linalg.norm(normal)) > 0.0:
        return [(0, i, i + 1) for i in range(1, count - 1)]
    keep = [axis for axis in range(3) if axis != int(np.argmax(np.abs(normal)))]
    flat = points[:, keep]
    if (normal[int(np.argmax(np.abs(normal)))] > 0) == (keep == [0, 2]):
        flat = flat * (1, -1)
    ring = list(range(count))
    found: list[tuple[int, int, int]] = []
    while len(ring) > 3:
        for place in range(len(ring)):
            a, b, c = ring[place - 1], ring[place], ring[(place + 1) % len(ring)]
            if _is_ear(flat, a, b, c, ring):
                found.append((a, b, c))
                del ring[place]
                break
        else:
            found += [(ring[0], ring[i], ring[i + 1]) for i in range(1, len(ring) - 2)]
            ring = [ring[0], ring[-2], ring[-1]]
    return [*found, (ring[0], ring[1], ring[2])]


def _is_ear(flat: NDArray[np.float64], a: int, b: int, c: int, ring: list[int]) -> bool:
    if _turn(flat[a], flat[b], flat[c]) <= 0:
        return False
    for other in ring:
        if other in (a, b, c):
            continue
        p = flat[other]
        sides = (_turn(flat[a], flat[b], p), _turn(flat[b], flat[c], p), _turn(flat[c], flat[a], p))
        if min(sides) >= 0 and not (p == flat[a]).all() and not (p == flat[c]).all():
            return False
    return True


def _turn(a: NDArray[np.float64], b: NDArray[np.float64], c: NDArray[np.float64]) -> float:
    return float((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))
