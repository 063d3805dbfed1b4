"""How copies of a part stand to one another: along a line, on a circle, in a grid."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Pattern", "pattern_of"]

Points = NDArray[np.float64]

_OFF = 1e-4
"""How far, mm, a copy may stand off its place, and a hundredth of a per mille of the whole more."""


@dataclass(frozen=True, slots=True)
class Pattern:
    """Copies in a regular order.

    Args:
        kind: line, circle or grid; words: how many, and how far apart, for people.
    """

    kind: str
    words: str


def pattern_of(places: Sequence[tuple[float, float, float]]) -> Pattern | None:
    """The order in which points stand, mm; None for fewer than three or none that is regular."""
    points = np.array(places, np.float64)
    if len(points) < 3:
        return None
    centred = points - points.mean(axis=0)
    within = _OFF + 1e-5 * float(np.abs(centred).max())
    _, spread, ways = np.linalg.svd(centred, full_matrices=False)
    rank = int((spread > within).sum())
    if rank == 1:
        return _line(np.sort(centred @ ways[0]), within)
    if rank == 2:
        flat = centred @ ways[:2].T
        return _circle(flat, within) or _grid(flat, within)
    return None


def _line(along: Points, within: float) -> Pattern | None:
    steps = np.diff(along)
    if steps.min() < within or np.ptp(steps) > 2 * within:
        return None
    return Pattern("line", f"{len(along)} in a line, {steps.mean():.4g} mm apart")


def _circle(flat: Points, within: float) -> Pattern | None:
    """Points all round at even angles; four of them are rather a grid."""
    if len(flat) == 4:
        return None
    radii = np.linalg.norm(flat, axis=1)
    angles = np.sort(np.arctan2(flat[:, 1], flat[:, 0]))
    steps = np.diff(np.concatenate([angles, angles[:1] + 2 * math.pi]))
    if np.ptp(radii) > 2 * within or np.ptp(steps) * radii.mean() > 4 * within:
        return None
    return Pattern("circle", f"{len(flat)} on a circle of {2 * radii.mean():.4g} mm")


def _grid(flat: Points, within: float) -> Pattern | None:
    """Rows and columns at right angles, every place filled."""
    corner = flat[int(np.argmax(np.linalg.norm(flat, axis=1)))]
    order = np.argsort(np.linalg.norm(flat - corner, axis=1))
    for other in order[1:]:
        way = flat[other] - corner
        way = way / np.linalg.norm(way)
        rows, columns = _levels(flat @ way, within), _levels(flat @ np.array([-way[1], way[0]]), within)
        if rows is None or columns is None or len(rows) * len(columns) != len(flat):
            continue
        if len(rows) > 1 and len(columns) > 1:
            steps = f"{np.diff(rows).mean():.4g} by {np.diff(columns).mean():.4g} mm apart"
            return Pattern("grid", f"{len(rows)} by {len(columns)} in a grid, {steps}")
    return None


def _levels(values: Points, within: float) -> Points | None:
    """Where values stand that come in even steps; None when they do not."""
    ordered = np.sort(values)
    levels: Points = ordered[np.concatenate([[True], np.diff(ordered) > 2 * within])]
    steps = np.diff(levels)
    if len(steps) and np.ptp(steps) > 4 * within:
        return None
    return levels
