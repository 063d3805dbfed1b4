"""Curves as polylines, with how far these lie off."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import UsageError
from gondrel.core.model.outline import Curve, FlatEllipse, Polyline, Spline, sampled
from gondrel.core.sheet.curve_sizes import curve_at, curve_length

__all__ = ["PolylineRule", "as_polylines"]

Floats = NDArray[np.float64]

_BETWEEN = 16
_MOST = 200_000


@dataclass(frozen=True, slots=True)
class PolylineRule:
    """How splines and ellipses become polylines.

    Args:
        chord: how far a stretch may lie off the curve, mm; length: of a stretch at most, mm; of both, what
            is stricter.

    Raises:
        UsageError: when neither is more than 0.
    """

    chord: float | None = None
    length: float | None = None

    def __post_init__(self) -> None:
        given = [size for size in (self.chord, self.length) if size is not None]
        if not given or min(given) <= 0.0 or not np.isfinite(given).all():
            raise UsageError("a polyline wants a chord height or a length of more than 0 mm")


def as_polylines(curves: Iterable[Curve], rule: PolylineRule) -> tuple[list[Curve], float]:
    """Curves with splines and ellipses as polylines, and how far the farthest stretch lies off, mm.

    Raises:
        UsageError: when the rule asks for more than 200,000 stretches of one curve.
    """
    made: list[Curve] = []
    worst = 0.0
    for curve in curves:
        if isinstance(curve, Spline | FlatEllipse):
            points, off = _polyline(curve, rule)
            curve = Polyline(tuple((x, y) for x, y in points.tolist()))
            worst = max(worst, off)
        made.append(curve)
    return made, worst


def _polyline(curve: Spline | FlatEllipse, rule: PolylineRule) -> tuple[Floats, float]:
    start, end = (
        (curve.knots[0], curve.knots[-1]) if isinstance(curve, Spline) else (curve.start, curve.end)
    )
    count = 2 if rule.chord is None else len(sampled(curve, rule.chord))
    if rule.length is not None:
        count = max(count, int(np.ceil(curve_length(curve) / rule.length)) + 1)
    while True:
        if count > _MOST:
            raise UsageError(f"a polyline would have more than {_MOST:,} stretches", hint="a larger one")
        at = np.linspace(start, end, count)
        if isinstance(curve, Spline):
            at = np.unique(np.concatenate([at, np.asarray(curve.knots)]))
        points = curve_at(curve, at)
        off = _off(curve, at, points)
        longest = float(np.linalg.norm(np.diff(points, axis=0), axis=1).max())
        too_far = rule.chord is not None and off > rule.chord
        too_long = rule.length is not None and longest > rule.length * (1 + 1e-9)
        if not too_far and not too_long:
            return points, off
        count = int(count * 1.4) + 1


def _off(curve: Curve, at: Floats, points: Floats) -> float:
    """How far a curve lies off the stretches between its points, mm, measured at 16 places of each."""
    shares = (np.arange(_BETWEEN) + 0.5) / _BETWEEN
    between = (at[:-1, None] + shares * np.diff(at)[:, None]).ravel()
    there = curve_at(curve, between).reshape(len(at) - 1, _BETWEEN, 2)
    along = np.diff(points, axis=0)[:, None]
    square = np.maximum((along**2).sum(axis=2), 1e-300)
    relative = there - points[:-1, None]
    share = np.clip((relative * along).sum(axis=2) / square, 0.0, 1.0)
    return float(np.linalg.norm(relative - share[..., None] * along, axis=2).max())
