"""Lines of a view that lie on each other: each stretch is drawn once, and seen before hidden.

Source: the precedence of coinciding lines, ISO 128-24: visible outlines and edges come before hidden ones.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.drawing import DrawnLine, LineRole
from gondrel.core.model.outline import Arc, Curve, FlatEllipse, FlatLine, Point, Polyline, Spline
from gondrel.core.sheet.curve_sizes import curve_at
from gondrel.core.sheet.recognised import recognised
from gondrel.core.work.late import late

__all__ = ["drawn_once"]

_spatial = late("scipy.spatial")

Floats = NDArray[np.float64]
Stretch = tuple[float, float]

_WITHIN = 1e-6
"""Lines this near for the size of the view lie on each other; a shorter remainder of one is none."""
_CONTOUR = 1e-5
"""Contours that the kernel walks along come this near to what they are, for the size of the view."""
_TURN = 2 * math.pi
_RANK = {LineRole.EDGE: 0, LineRole.CONTOUR: 1, LineRole.SMOOTH: 2}
_SPOTS = 9


def drawn_once(lines: Sequence[DrawnLine]) -> list[DrawnLine]:
    """Lines without what others cover, stretches on the same line, circle or ellipse joined.

    Splines are left out only where another is the same all along; a contour that is straight or round
    within a hundred-thousandth of the view is made so.
    """
    if not lines:
        return []
    ordered = sorted(lines, key=lambda line: (line.is_hidden, _RANK[line.role], line.part))
    places = np.array([_spots(line.curve) for line in ordered])
    low, high = places.min(axis=(0, 1)), places.max(axis=(0, 1))
    middle, size = (low + high) / 2, max(float((high - low).max()), 1e-6)
    within = _WITHIN * size
    ordered = [_as_recognised(line, _CONTOUR * size) for line in ordered]
    made: list[DrawnLine] = []
    for kind in (FlatLine, Arc, FlatEllipse):
        ours = [line for line in ordered if isinstance(line.curve, kind)]
        if ours:
            made += _on_carriers(ours, middle, size, within)
    return made + _splines_once([line for line in ordered if isinstance(line.curve, Spline)], within)


def _as_recognised(line: DrawnLine, within: float) -> DrawnLine:
    return replace(line, curve=recognised(line.curve, within)) if line.role is LineRole.CONTOUR else line


# --- lines, circles and ellipses ---------------------------------------------------------------------


@dataclass(slots=True)
class _Carrier:
    """What stretches lie on: the whole line, circle or ellipse.

    Args:
        covered: stretches that are drawn already.
        drawn: stretches by what they are.
    """

    curve: Curve
    slack: float
    covered: list[Stretch] = field(default_factory=list)
    drawn: defaultdict[tuple[bool, LineRole, int], list[Stretch]] = field(
        default_factory=lambda: defaultdict(list)
    )

    def add(self, line: DrawnLine, stretches: Sequence[Stretch]) -> None:
        for stretch in stretches:
            left = _without(stretch, self.covered, self.slack)
            self.drawn[line.is_hidden, line.role, line.part] += left
            self.covered = _joined([*self.covered, stretch], self.slack)


def _on_carriers(lines: Sequence[DrawnLine], middle: Floats, size: float, within: float) -> list[DrawnLine]:
    keys = np.array([_key(line.curve, middle, size) for line in lines])
    pairs = _spatial.cKDTree(keys).query_pairs(within, output_type="ndarray")
    first = np.arange(len(lines))
    for one, other in pairs[np.argsort(pairs[:, 1], kind="stable")].tolist():
        first[other] = min(first[other], first[one])
    carriers: dict[int, _Carrier] = {}
    for line, owner in zip(lines, first.tolist(), strict=True):
        if owner not in carriers:
            carriers[owner] = _Carrier(lines[owner].curve, within / _unit(lines[owner].curve))
        carrier = carriers[owner]
        carrier.add(line, _stretches(line.curve, carrier.curve))
    return [
        DrawnLine(_part_of(carrier.curve, stretch), role, is_hidden, part)
        for carrier in carriers.values()
        for (is_hidden, role, part), stretches in carrier.drawn.items()
        for stretch in _around(_joined(stretches, carrier.slack), carrier)
    ]


def _key(curve: Curve, middle: Floats, size: float) -> list[float]:
    """Numbers that are alike, in mm, for curves on the same carrier."""
    if isinstance(curve, FlatLine):
        start, along = np.subtract(curve.start, middle), _along(curve)
        foot = start - (start @ along) * along
        angle = 2 * math.atan2(along[1], along[0])
        return [*foot.tolist(), size * math.cos(angle), size * math.sin(angle)]
    if isinstance(curve, Arc):
        return [*curve.centre, curve.radius]
    assert isinstance(curve, FlatEllipse)
    wide = math.hypot(*curve.major)
    angle = 2 * math.atan2(curve.major[1], curve.major[0])
    reach = wide * (1 - curve.ratio)
    return [*curve.centre, wide, wide * curve.ratio, reach * math.cos(angle), reach * math.sin(angle)]


def _along(line: FlatLine) -> Floats:
    along = np.subtract(line.end, line.start)
    return np.asarray(along / np.linalg.norm(along))


def _unit(curve: Curve) -> float:
    """Millimetres along a carrier for one step of its parameter, about."""
    if isinstance(curve, Arc):
        return curve.radius
    return math.hypot(*curve.major) if isinstance(curve, FlatEllipse) else 1.0


def _stretches(curve: Curve, carrier: Curve) -> list[Stretch]:
    """Where a curve lies on its carrier: mm along a line, rad from 0 to a turn round the others."""
    if isinstance(curve, FlatLine):
        assert isinstance(carrier, FlatLine)
        along = _along(carrier)
        ends = [float(np.subtract(end, carrier.start) @ along) for end in (curve.start, curve.end)]
        return [(min(ends), max(ends))]
    assert isinstance(curve, Arc | FlatEllipse)
    turn = 0.0
    if isinstance(curve, FlatEllipse) and isinstance(carrier, FlatEllipse):
        is_turned = np.dot(curve.major, carrier.major) < 0.0
        turn = math.pi if is_turned else 0.0
    start = (curve.start + turn) % _TURN
    end = start + (curve.end - curve.start)
    if end - start >= _TURN - 1e-9:
        return [(0.0, _TURN)]
    return [(start, end)] if end <= _TURN else [(start, _TURN), (0.0, end - _TURN)]


def _without(stretch: Stretch, covered: Sequence[Stretch], slack: float) -> list[Stretch]:
    left, (at, end) = [], stretch
    for first, last in covered:
        if last <= at or first >= end:
            continue
        if first > at:
            left.append((at, first))
        at = max(at, last)
    left += [(at, end)] if at < end else []
    return [(a, b) for a, b in left if b - a > slack]


def _joined(stretches: Sequence[Stretch], slack: float) -> list[Stretch]:
    made: list[Stretch] = []
    for a, b in sorted(stretches):
        if made and a <= made[-1][1] + slack:
            made[-1] = made[-1][0], max(made[-1][1], b)
        else:
            made.append((a, b))
    return made


def _around(stretches: list[Stretch], carrier: _Carrier) -> list[Stretch]:
    """Stretches of a closed carrier joined where its parameter starts anew."""
    closed = isinstance(carrier.curve, Arc | FlatEllipse) and len(stretches) > 1
    if closed and stretches[0][0] <= carrier.slack and stretches[-1][1] >= _TURN - carrier.slack:
        (_, end), (start, _) = stretches[0], stretches[-1]
        return [*stretches[1:-1], (start, end + _TURN)]
    return stretches


def _part_of(curve: Curve, stretch: Stretch) -> Curve:
    if isinstance(curve, FlatLine):
        along = _along(curve)
        start, end = (np.array(curve.start) + at * along for at in stretch)
        return FlatLine(_point(start), _point(end))
    assert isinstance(curve, Arc | FlatEllipse)
    return replace(curve, start=stretch[0], end=stretch[1])


def _point(at: Floats) -> Point:
    return float(at[0]), float(at[1])


# --- splines -------------------------------------------------------------------------------------------


def _splines_once(lines: Sequence[DrawnLine], within: float) -> list[DrawnLine]:
    kept: list[DrawnLine] = []
    spots = np.empty((0, _SPOTS, 2))
    for line in lines:
        ours = _spots(line.curve)
        off = np.minimum(
            np.abs(spots - ours).max(axis=(1, 2), initial=0.0),
            np.abs(spots - ours[::-1]).max(axis=(1, 2), initial=0.0),
        )
        if not len(spots) or float(off.min()) > 10 * within:
            kept.append(line)
            spots = np.concatenate([spots, ours[None]])
    return kept


def _spots(curve: Curve) -> Floats:
    """Points at even steps of a curve's parameter, (n, 2)."""
    if isinstance(curve, FlatLine | Polyline):
        first, last = 0.0, 1.0
    elif isinstance(curve, Spline):
        first, last = curve.knots[0], curve.knots[-1]
    else:
        first, last = curve.start, curve.end
    return curve_at(curve, np.linspace(first, last, _SPOTS))
