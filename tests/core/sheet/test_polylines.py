"""Lengths, areas and polylines of curves against closed forms."""

import math

import numpy as np
import pytest
from scipy.special import ellipe

from gondrel.core.errors import UsageError
from gondrel.core.model.outline import Arc, FlatEllipse, FlatLine, Polyline, Spline
from gondrel.core.sheet.curve_sizes import curve_at, curve_length, ends_of, swept_area
from gondrel.core.sheet.polylines import PolylineRule, as_polylines
from gondrel.core.sheet.recognised import recognised

HALF = math.sqrt(0.5)
CIRCLE = Spline(
    2, (0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 4),
    ((3, 0), (3, 3), (0, 3), (-3, 3), (-3, 0), (-3, -3), (0, -3), (3, -3), (3, 0)),
    (1, HALF, 1, HALF, 1, HALF, 1, HALF, 1),
)  # fmt: skip
ELLIPSE = FlatEllipse((4.0, -2.0), (0.0, 6.0), 0.5, 0.0, 2 * math.pi)


def test_lengths_and_areas() -> None:
    assert curve_length(CIRCLE) == pytest.approx(6 * math.pi, rel=1e-13)
    assert swept_area(CIRCLE) == pytest.approx(9 * math.pi, rel=1e-13)
    assert curve_length(ELLIPSE) == pytest.approx(4 * 6 * ellipe(0.75), rel=1e-13)
    assert swept_area(ELLIPSE) == pytest.approx(18 * math.pi, rel=1e-13)
    part = FlatEllipse((0, 0), (6, 0), 0.5, 0.3, 2.1)
    steps = np.linalg.norm(np.diff(curve_at(part, np.linspace(0.3, 2.1, 200_001)), axis=0), axis=1)
    assert curve_length(part) == pytest.approx(float(steps.sum()), rel=1e-9)
    parabola = Spline(2, (0, 0, 0, 1, 1, 1), ((0, 0), (1, 0), (2, 4)))  # y = x^2 from 0 to 2
    assert curve_length(parabola) == pytest.approx(math.sqrt(17) + math.asinh(4) / 4, rel=1e-13)
    assert swept_area(parabola) == pytest.approx((8 - 2 * 8 / 3) / 2, rel=1e-13)


def test_the_area_of_an_outline_does_not_depend_on_where_it_lies() -> None:
    for x, y in ((0, 0), (1e4, -3e3)):
        arc = Arc((x, y), 5.0, 0.0, math.pi)
        closing = FlatLine((x - 5, y), (x + 5, y))
        assert swept_area(arc) + swept_area(closing) == pytest.approx(12.5 * math.pi, rel=1e-9)
        assert ends_of(arc)[0] == pytest.approx((x + 5, y))


@pytest.mark.parametrize("chord", [0.5, 0.05, 1e-3, 1e-5])
def test_polylines_keep_within_their_chord(chord) -> None:
    (circle, ellipse, line), off = as_polylines(
        [CIRCLE, ELLIPSE, FlatLine((0, 0), (1, 1))], PolylineRule(chord=chord)
    )
    assert isinstance(circle, Polyline) and isinstance(ellipse, Polyline) and isinstance(line, FlatLine)
    assert off <= chord
    steps = np.array(circle.points)
    middles = np.linalg.norm((steps[1:] + steps[:-1]) / 2, axis=1)
    assert 3 - middles.min() <= off + 1e-12  # the middle of a chord of a circle is what lies off most
    assert off < 3 * chord and len(steps) < 4 + 40 / math.sqrt(chord)


def test_polylines_of_a_length() -> None:
    (made,), off = as_polylines([CIRCLE], PolylineRule(length=0.25))
    assert isinstance(made, Polyline)
    steps = np.linalg.norm(np.diff(np.array(made.points), axis=0), axis=1)
    assert steps.max() <= 0.25 * (1 + 1e-9)
    assert off == pytest.approx(3 * (1 - math.cos(math.asin(steps.max() / 6))), rel=0.02)
    with pytest.raises(UsageError):
        PolylineRule()
    with pytest.raises(UsageError):
        as_polylines([CIRCLE], PolylineRule(length=1e-7))


def test_a_spline_that_is_round_or_straight_is_known() -> None:
    found = recognised(CIRCLE, 1e-9)
    assert isinstance(found, Arc) and found.radius == pytest.approx(3)
    assert curve_length(found) == pytest.approx(6 * math.pi)
    straight = Spline(3, (0, 0, 0, 0, 1, 1, 1, 1), ((0, 0), (1, 1), (1.5, 1.5), (4, 4)))
    assert recognised(straight, 1e-9) == FlatLine((0, 0), (4, 4))
    bent = Spline(2, (0, 0, 0, 1, 1, 1), ((0, 0), (1, 0), (2, 4)))
    assert recognised(bent, 1e-6) is bent
