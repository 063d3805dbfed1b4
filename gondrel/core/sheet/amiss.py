"""What of a drawing is drawn twice, or crosses."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from gondrel.core.model.outline import Curve, FlatLine, Point, Spline, sampled
from gondrel.core.model.profile import Amiss
from gondrel.core.sheet.curve_sizes import curve_at
from gondrel.core.work.late import late

__all__ = ["crossings_of", "doubles_of"]

_spatial = late("scipy.spatial")

Floats = NDArray[np.float64]

_SPOTS = 9
_MOST = 1000
_FINE = 1e-4


def _spots(curve: Curve) -> Floats:
    if isinstance(curve, FlatLine):
        first, last = 0.0, 1.0
    elif isinstance(curve, Spline):
        first, last = curve.knots[0], curve.knots[-1]
    else:
        first, last = curve.start, curve.end  # type: ignore[union-attr]
    return curve_at(curve, np.linspace(first, last, _SPOTS))


def doubles_of(curves: Sequence[Curve], within: float) -> list[tuple[tuple[int, int | None], Point]]:
    """Curves that are the same as an earlier one, and where; each is found once.

    Whole circles and ellipses are the same wherever they start.
    """
    if not curves:
        return []
    spots = np.array([_spots(curve) for curve in curves])
    closed = np.linalg.norm(spots[:, 0] - spots[:, -1], axis=1) < 1e-9
    middles = np.where(closed[:, None], spots[:, :-1].mean(axis=1), spots[:, _SPOTS // 2])
    found, gone = [], set[int]()
    pairs = _spatial.cKDTree(middles).query_pairs(within, output_type="ndarray")
    for one, other in sorted(map(tuple, pairs.tolist())):
        if one in gone or other in gone or type(curves[one]) is not type(curves[other]):
            continue
        if closed[one] and closed[other]:
            off = float(np.abs(np.linalg.norm(spots[one] - middles[one], axis=1).max()
                               - np.linalg.norm(spots[other] - middles[other], axis=1).max()))  # fmt: skip
        else:
            ways = spots[other], spots[other][::-1]
            off = min(float(np.abs(spots[one] - way).max()) for way in ways)
        if off <= within:
            gone.add(other)
            x, y = spots[other][_SPOTS // 2].tolist()
            found.append(((one, other), (x, y)))
    return found


def crossings_of(
    curves: Sequence[Curve], nodes: Sequence[Point], ends: Sequence[tuple[int, int]], within: float,
    chord: float,
) -> list[Amiss]:  # fmt: skip
    """Where curves cross or touch one another away from their ends; at most a thousand.

    Found on polylines and so within their chord; ends that lie on another curve count, as they do not split
    it.
    """
    if not curves:
        return []
    lines = [shapely.LineString(sampled(curve, min(chord, _FINE * 100))) for curve in curves]
    tree = shapely.STRtree(lines)
    found: list[Amiss] = []
    pairs = tree.query(lines, predicate="intersects").T
    for one, other in pairs[pairs[:, 0] < pairs[:, 1]].tolist():
        common = [nodes[node] for node in set(ends[one]) & set(ends[other]) if node >= 0]
        for x, y in _points(lines[one].intersection(lines[other])):
            reach = max(2 * within, 2 * chord)
            if all(np.hypot(x - a, y - b) > reach for a, b in common):
                found.append(Amiss("crossing", (x, y), (one, other)))
            if len(found) >= _MOST:
                return found
    for place, line in enumerate(lines):
        if isinstance(curves[place], Spline) and not line.is_simple:
            x, y = line.centroid.coords[0]
            found.append(Amiss("crossing", (x, y), (place,)))
    return found


def _points(shape: shapely.Geometry) -> list[Point]:
    made: list[Point] = []
    for part in shapely.get_parts(shape):
        x, y = (
            part.coords[0]
            if part.geom_type == "Point"
            else part.interpolate(0.5, normalized=True).coords[0]
        )
        made.append((float(x), float(y)))
    return made
