"""Patterns: equal features in a row, on a circle or in a grid."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gondrel.core.features.lines import is_along
from gondrel.core.model.features import Feature
from gondrel.core.model.geometry import vector_of

__all__ = ["find_patterns"]

Floats = NDArray[np.float64]

_REPEATED = ("hole", "counterbore", "countersink", "boss", "slot")
_SAME = 1e-4


def find_patterns(features: Sequence[Feature]) -> list[Feature]:
    """Patterns of three and more equal features; each is of one pattern at most."""
    groups: dict[tuple[object, ...], list[int]] = {}
    for place, feature in enumerate(features):
        if feature.kind in _REPEATED and feature.at is not None and feature.way is not None:
            sizes = tuple((name, round(value, 4)) for name, value in sorted(feature.sizes.items()))
            same = next((key for key in groups if key[:2] == (feature.kind, sizes)
                         and is_along(key[2], feature.way)), None)  # type: ignore[arg-type]  # fmt: skip
            groups.setdefault(same or (feature.kind, sizes, feature.way), []).append(place)
    found = []
    for places in groups.values():
        if len(places) < 3:
            continue
        way = np.asarray(features[places[0]].way)
        points = np.array([features[place].at for place in places])
        flat = points - np.outer(points @ way, way)
        pattern = _row(flat) or _circle(flat) or _grid(flat) or _mirrored(flat)
        if pattern is not None:
            spread, evidence = pattern
            told = {"count": float(len(places)), **spread}
            at, axis = vector_of(points.mean(axis=0) + 0.0), features[places[0]].way
            found.append(Feature("pattern", told, (), at, axis, 1.0, evidence, tuple(places)))
    return found


def _row(points: Floats) -> tuple[dict[str, float], str] | None:
    away = points - points[0]
    far = away[np.argmax(np.linalg.norm(away, axis=1))]
    length = float(np.linalg.norm(far))
    if length < _SAME:
        return None
    along = away @ (far / length)
    if np.abs(away - np.outer(along, far / length)).max() > _SAME:
        return None
    steps = np.diff(np.sort(along))
    if np.ptp(steps) > _SAME:
        return None
    return {"pitch": float(steps.mean())}, "equal features in a row, one pitch apart"


def _circle(points: Floats) -> tuple[dict[str, float], str] | None:
    centre = points.mean(axis=0)
    away = points - centre
    radii = np.linalg.norm(away, axis=1)
    if np.ptp(radii) > _SAME or radii.min() < _SAME:
        return None
    x = away[0] / radii[0]
    normal = next((n for p in away[1:] if np.linalg.norm(n := np.cross(x, p)) > 1e-3 * radii[0]), None)
    if normal is None:
        return None
    y = np.cross(normal / np.linalg.norm(normal), x)
    turns = np.sort(np.arctan2(away @ y, away @ x))
    steps = np.diff(np.append(turns, turns[0] + 2 * np.pi))
    if np.ptp(steps) * radii[0] > _SAME:
        return None
    sizes = {"pitch_diameter": 2 * float(radii.mean()), "angle": float(np.degrees(steps.mean()))}
    return sizes, "equal features on a circle, one angle apart"


def _grid(points: Floats) -> tuple[dict[str, float], str] | None:
    """Points that are all crossings of rows and columns square to one another."""
    first = points[0]
    near = sorted((float(np.linalg.norm(p - first)), k) for k, p in enumerate(points) if k)
    x = (points[near[0][1]] - first) / near[0][0]
    away = points - first
    across = away - np.outer(away @ x, x)
    size = float(np.linalg.norm(across, axis=1).max())
    if size < _SAME:
        return None
    y = across[np.argmax(np.linalg.norm(across, axis=1))] / size
    columns, rows = (_ticks(away @ axis) for axis in (x, y))
    if columns is None or rows is None or len(columns) * len(rows) != len(points):
        return None
    if np.abs(away - np.outer(away @ x, x) - np.outer(away @ y, y)).max() > _SAME:
        return None
    sizes = {
        "columns": float(len(columns)), "rows": float(len(rows)),
        "pitch": float(columns[1] - columns[0]), "pitch2": float(rows[1] - rows[0]),
    }  # fmt: skip
    return sizes, "equal features in rows and columns"


def _ticks(values: Floats) -> Floats | None:
    """Different values with equal steps; None where there are fewer than two, or other steps."""
    ticks = np.unique(np.round(values / _SAME) * _SAME)
    return ticks if len(ticks) > 1 and np.ptp(np.diff(ticks)) < 2 * _SAME else None


def _mirrored(points: Floats) -> tuple[dict[str, float], str] | None:
    """Points that a plane square to the line between two of them mirrors into one another; an even number,
    four at least."""
    if len(points) < 4 or len(points) % 2:
        return None
    centre = points.mean(axis=0)
    away = points - centre
    for other in away[1:]:
        across = other - away[0]
        length = float(np.linalg.norm(across))
        if length < _SAME or abs(float(np.dot(other + away[0], across))) > _SAME * length:
            continue
        normal = across / length
        image = away - 2 * np.outer(away @ normal, normal)
        apart = np.linalg.norm(image[:, None] - away[None], axis=2)
        if float(apart.min(axis=1).max()) < _SAME and float(np.abs(away @ normal).min()) > _SAME:
            return {"mirrored": 1.0}, "equal features that a plane mirrors into one another"
    return None
