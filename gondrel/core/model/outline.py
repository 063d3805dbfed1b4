"""Curves of a drawing sheet: exact, in millimetres, x to the right and y up."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from gondrel.core.work.late import late

__all__ = [
    "Arc",
    "Curve",
    "FlatEllipse",
    "FlatLine",
    "LineStyle",
    "PartOutline",
    "Point",
    "Polyline",
    "Spline",
    "outline_box",
    "sampled",
    "shifted",
]

_interpolate = late("scipy.interpolate")

Point = tuple[float, float]
Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class FlatLine:
    """A straight stretch."""

    start: Point
    end: Point


@dataclass(frozen=True, slots=True)
class Arc:
    """A part of a circle, anticlockwise from one angle to another, rad; whole where they are 2 pi apart."""

    centre: Point
    radius: float
    start: float
    end: float


@dataclass(frozen=True, slots=True)
class FlatEllipse:
    """A part of an ellipse, anticlockwise between two parameters, rad.

    Args:
        major: from the centre to the end of the wide axis; ratio: of the narrow to the wide one.
    """

    centre: Point
    major: Point
    ratio: float
    start: float
    end: float


@dataclass(frozen=True, slots=True)
class Spline:
    """A B-spline: clamped knots with their repeats; no weights where it is not rational."""

    degree: int
    knots: tuple[float, ...]
    poles: tuple[Point, ...]
    weights: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Polyline:
    """Straight stretches from point to point."""

    points: tuple[Point, ...]


Curve = FlatLine | Arc | FlatEllipse | Spline | Polyline


class LineStyle(StrEnum):
    """How curves are drawn, by the line types of ISO 128-20."""

    WIDE = "wide"
    NARROW = "narrow"
    DASHED = "dashed"
    CHAIN = "chain"


@dataclass(frozen=True, slots=True)
class PartOutline:
    """The curves of one part on a sheet, with what hatches it.

    Args:
        layer: what the part is called; colour: #rrggbb; hatching: stretches, straight.
        style: of the curves; texts: what is written, with where it starts and how high it is, mm.
    """

    layer: str
    colour: str
    curves: tuple[Curve, ...]
    hatching: tuple[tuple[Point, Point], ...] = ()
    style: LineStyle = LineStyle.WIDE
    texts: tuple[tuple[str, Point, float], ...] = ()


def sampled(curve: Curve, chord: float) -> Floats:
    """Points along a curve, (n, 2), no chord farther from it than some millimetres.

    Source: the height of a chord over an arc, r (1 - cos(a / 2)), and de Boor's rule for splines.
    """
    if isinstance(curve, FlatLine):
        return np.array([curve.start, curve.end])
    if isinstance(curve, Polyline):
        return np.array(curve.points)
    if isinstance(curve, Arc):
        at = np.linspace(curve.start, curve.end, _steps(curve.radius, curve.end - curve.start, chord))
        return np.add(curve.centre, curve.radius * np.stack([np.cos(at), np.sin(at)], axis=1))
    if isinstance(curve, FlatEllipse):
        wide = np.asarray(curve.major)
        narrow = curve.ratio * np.array([-wide[1], wide[0]])
        count = _steps(float(np.linalg.norm(wide)), curve.end - curve.start, chord)
        at = np.linspace(curve.start, curve.end, count)[:, None]
        return np.asarray(np.asarray(curve.centre) + np.cos(at) * wide + np.sin(at) * narrow)
    return _along_spline(curve, chord)


def _steps(radius: float, angle: float, chord: float) -> int:
    most = 2 * np.arccos(max(1 - chord / max(radius, chord), 0.0)) or 0.1
    return int(np.ceil(abs(angle) / most)) + 1


_MOST = 4096


def _along_spline(curve: Spline, chord: float) -> Floats:
    weights = np.asarray(curve.weights) if curve.weights else np.ones(len(curve.poles))
    poles = np.column_stack([np.asarray(curve.poles) * weights[:, None], weights])
    spline = _interpolate.BSpline(np.asarray(curve.knots), poles, curve.degree)
    breaks = np.unique(curve.knots)
    count = 2
    while True:
        at = np.unique(np.concatenate([np.linspace(a, b, count) for a, b in pairwise(breaks)]))
        points = _flat(spline(at))
        middles = _flat(spline((at[1:] + at[:-1]) / 2))
        off = float(np.linalg.norm(middles - (points[1:] + points[:-1]) / 2, axis=1).max())
        if off <= chord or count > _MOST:
            return points
        count = 2 * count - 1


def _flat(homogeneous: Floats) -> Floats:
    flat: Floats = homogeneous[:, :2] / homogeneous[:, 2:]
    return flat


def _extremes(curve: Curve) -> Floats:
    """Points of a curve that its box can be told from; of a spline within 0.001 mm."""
    if isinstance(curve, FlatLine | Spline | Polyline):
        return sampled(curve, 1e-3)
    wide = (curve.radius, 0.0) if isinstance(curve, Arc) else curve.major
    ratio = 1.0 if isinstance(curve, Arc) else curve.ratio
    (a, b), (c, d) = wide, (-ratio * wide[1], ratio * wide[0])
    span = curve.end - curve.start
    turns = [curve.start, curve.end]
    for turn in (math.atan2(c, a), math.atan2(d, b)):
        for half in (0.0, math.pi):
            ahead = (turn + half - curve.start) % (2 * math.pi)
            turns += [curve.start + ahead] if ahead <= span else []
    at = np.array(turns)[:, None]
    return np.asarray(
        np.array(curve.centre) + np.cos(at) * np.array((a, b)) + np.sin(at) * np.array((c, d))
    )


def outline_box(outlines: tuple[PartOutline, ...]) -> tuple[Point, Point]:
    """The least and the greatest corner of outlines, mm; two zeros without any."""
    points = [_extremes(curve) for outline in outlines for curve in outline.curves]
    if not points:
        return (0.0, 0.0), (0.0, 0.0)
    whole = np.concatenate(points)
    (a, b), (c, d) = whole.min(axis=0).tolist(), whole.max(axis=0).tolist()
    return (a, b), (c, d)


def shifted(outline: PartOutline, x: float, y: float) -> PartOutline:
    """An outline elsewhere on the sheet."""

    def at(point: Point) -> Point:
        return point[0] + x, point[1] + y

    def moved(curve: Curve) -> Curve:
        if isinstance(curve, FlatLine):
            return FlatLine(at(curve.start), at(curve.end))
        if isinstance(curve, Spline):
            return replace(curve, poles=tuple(map(at, curve.poles)))
        if isinstance(curve, Polyline):
            return Polyline(tuple(map(at, curve.points)))
        return replace(curve, centre=at(curve.centre))

    hatching = tuple((at(start), at(end)) for start, end in outline.hatching)
    texts = tuple((text, at(start), height) for text, start, height in outline.texts)
    return replace(outline, curves=tuple(map(moved, outline.curves)), hatching=hatching, texts=texts)
