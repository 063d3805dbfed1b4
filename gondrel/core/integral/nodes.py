"""Points along edges at which integrals are taken, with the steps between them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from gondrel.core.integral.splines import SplinePath, spline_points
from gondrel.core.integral.tables import ARC, LINE, EdgeTable

__all__ = ["Nodes", "nodes_of", "rule"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_LINE_NODES = 3
_ARC_NODES = 12
_PANEL = np.pi / 3
_SPLINE_NODES = 8
_MOST_PANELS = 400


@dataclass(frozen=True, slots=True)
class Nodes:
    """Gauss points of all edges one after another.

    Args:
        points: (n, 3) mm; steps: (n, 3) the derivative along the edge times the weight of the point, so
            that the sum over steps is the chord; starts: (edges + 1,) where each edge's points begin.
    """

    points: Floats
    steps: Floats
    starts: Ints


def nodes_of(edges: EdgeTable) -> Nodes:
    """Gauss points along every edge; edges of unknown curves have none.

    Source: Gauss-Legendre rules: 3 points a line, 12 a sixth of a turn, 8 a knot span of a spline.
    """
    kind = edges.kind
    panels = np.zeros(len(edges), np.int64)
    arcs = np.flatnonzero(kind == ARC)
    spans = np.abs(edges.span[arcs, 1] - edges.span[arcs, 0])
    panels[arcs] = np.maximum(np.ceil(spans / _PANEL - 1e-9).astype(np.int64), 1)
    breaks = {row: _breaks(path) for row, path in edges.splines.items()}
    count = np.zeros(len(edges), np.int64)
    count[kind == LINE] = _LINE_NODES
    count[arcs] = panels[arcs] * _ARC_NODES
    for row, at in breaks.items():
        count[row] = (len(at) - 1) * _SPLINE_NODES
    starts = np.concatenate([[0], np.cumsum(count)])
    points, steps = np.zeros((starts[-1], 3)), np.zeros((starts[-1], 3))
    _fill_lines(edges, starts, points, steps)
    _fill_arcs(edges, arcs, panels, starts, points, steps)
    for row, at in breaks.items():
        where = slice(starts[row], starts[row + 1])
        points[where], steps[where] = _spline_nodes(edges.splines[row], at)
    return Nodes(points, steps, starts)


def _fill_lines(edges: EdgeTable, starts: Ints, points: Floats, steps: Floats) -> None:
    rows = np.flatnonzero(edges.kind == LINE)
    at, weight = rule(_LINE_NODES)
    where = starts[rows][:, None] + np.arange(_LINE_NODES)
    begin, along = edges.ends[rows, 0], edges.ends[rows, 1] - edges.ends[rows, 0]
    points[where] = begin[:, None] + at[:, None] * along[:, None]
    steps[where] = weight[:, None] * along[:, None]


def _fill_arcs(
    edges: EdgeTable, arcs: Ints, panels: Ints, starts: Ints, points: Floats, steps: Floats
) -> None:
    at, weight = rule(_ARC_NODES)
    for count in np.unique(panels[arcs]).tolist():
        rows = arcs[panels[arcs] == count]
        first, width = edges.span[rows, 0], (edges.span[rows, 1] - edges.span[rows, 0]) / count
        shares = (np.arange(count)[:, None] + at).ravel()
        angles = first[:, None] + width[:, None] * shares
        weights = np.tile(weight, count) * width[:, None]
        where = starts[rows][:, None] + np.arange(len(shares))
        cos, sin = np.cos(angles)[..., None], np.sin(angles)[..., None]
        centre, x, y = (edges.frame[rows, None, part] for part in range(3))
        points[where] = centre + cos * x + sin * y
        steps[where] = weights[..., None] * (cos * y - sin * x)


@cache
def rule(count: int) -> tuple[Floats, Floats]:
    """Gauss-Legendre points and weights on 0 to 1."""
    at, weight = np.polynomial.legendre.leggauss(count)
    return (at + 1) / 2, weight / 2


def _breaks(path: SplinePath) -> Floats:
    """Parameters between which a spline is smooth, in the order it is run through."""
    low, high = sorted((path.first, path.last))
    inner = path.basis.breaks
    inner = inner[(inner > low) & (inner < high)]
    if len(inner) > _MOST_PANELS:
        inner = inner[:: len(inner) // _MOST_PANELS + 1]
    breaks = np.concatenate([[low], inner, [high]])
    return breaks if path.last >= path.first else breaks[::-1]


def _spline_nodes(path: SplinePath, breaks: Floats) -> tuple[Floats, Floats]:
    at, weight = rule(_SPLINE_NODES)
    width = np.diff(breaks)
    where = (breaks[:-1, None] + width[:, None] * at).ravel()
    points, slopes = spline_points(path, where)
    return points, slopes * (width[:, None] * weight).ravel()[:, None]
