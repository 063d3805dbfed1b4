"""Meshes made by formula, so that their volumes are known."""

from __future__ import annotations

from math import cos, pi, sin

import numpy as np

from gondrel.core.model.facets import Facets, welded


def cube(size: float, at: tuple[float, float, float] = (0, 0, 0)) -> Facets:
    p = np.array([[x, y, z] for z in (0, 1) for y in (0, 1) for x in (0, 1)], float) * size + at
    quads = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]
    triangles = [t for a, b, c, d in quads for t in ((a, b, c), (a, c, d))]
    return welded(p[np.array(triangles)], 0.0)


def globe(radius: float, rings: int, sectors: int) -> Facets:
    """A sphere of flat facets about the origin."""

    def at(i: int, j: int) -> tuple[float, float, float]:
        a, b = pi * i / rings, 2 * pi * (j % sectors) / sectors
        if i in (0, rings):
            return (0.0, 0.0, radius if i == 0 else -radius)
        return (radius * sin(a) * cos(b), radius * sin(a) * sin(b), radius * cos(a))

    corners = []
    for i in range(rings):
        for j in range(sectors):
            a, b, c, d = at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)
            if i < rings - 1:
                corners.append((a, b, c))
            if i > 0:
                corners.append((a, c, d))
    return welded(np.array(corners), 1e-9)


def helical_gear(teeth: int, tip: float, root: float, bore: float, height: float, turn: float) -> Facets:
    """A gear of plain flanks, turned by an angle over its height, with a round bore of 48 sides.

    Its cross section is the same everywhere but for the turn, so its volume tends to that of the
    straight gear as layers are added; the exact one is that of its facets.
    """
    outline = []
    for k in range(teeth):
        for share, radius in ((0.0, root), (0.25, root), (0.35, tip), (0.9, tip)):
            angle = 2 * pi * (k + share) / teeth
            outline.append((radius * cos(angle), radius * sin(angle)))
    hole = [(bore * cos(2 * pi * k / 48), bore * sin(2 * pi * k / 48)) for k in range(48)]
    layers = 12
    corners: list[tuple] = []

    def ring(points, level):
        a = turn * level / layers
        z = height * level / layers
        return [(x * cos(a) - y * sin(a), x * sin(a) + y * cos(a), z) for x, y in points]

    for level in range(layers):
        for points, is_outer in ((outline, True), (hole, False)):
            low, high = ring(points, level), ring(points, level + 1)
            for k in range(len(points)):
                a, b, c, d = low[k], low[(k + 1) % len(low)], high[(k + 1) % len(low)], high[k]
                faces = [(a, b, c), (a, c, d)]
                corners += faces if is_outer else [f[::-1] for f in faces]
    for level, up in ((0, False), (layers, True)):
        outer, inner = ring(outline, level), ring(hole, level)
        corners += _annulus(outer, inner, up)
    return welded(np.array(corners), 1e-9)


def _annulus(outer, inner, up: bool):
    """Triangles between two rings of points, walked round together by angle."""
    n, m = len(outer), len(inner)
    i = j = 0
    found = []
    while i < n or j < m:
        if j >= m or (i < n and (i + 1) / n <= (j + 1) / m):
            found.append((outer[i % n], outer[(i + 1) % n], inner[j % m]))
            i += 1
        else:
            found.append((outer[i % n], inner[(j + 1) % m], inner[j % m]))
            j += 1
    return found if up else [f[::-1] for f in found]
