"""Regions of drawings against closed forms, and what keeps a drawing from having them."""

import math
from itertools import pairwise

import numpy as np
import pytest

from gondrel.core.model.outline import Arc, FlatEllipse, FlatLine, Spline
from gondrel.core.sheet.curve_sizes import ends_of
from gondrel.core.sheet.regions import find_regions

TURN = 2 * math.pi


def lines(*points, close=True):
    run = [*points, points[0]] if close else list(points)
    return [FlatLine(a, b) for a, b in pairwise(run)]


def box(x, y, width, height):
    return lines((x, y), (x + width, y), (x + width, y + height), (x, y + height))


def slot(x, y, length, radius):
    """Two straight sides and two half circles."""
    return [
        FlatLine((x, y - radius), (x + length, y - radius)),
        Arc((x + length, y), radius, -math.pi / 2, math.pi / 2),
        FlatLine((x, y + radius), (x + length, y + radius)),
        Arc((x, y), radius, math.pi / 2, 3 * math.pi / 2),
    ]


def shuffled(curves, seed=1):
    """In another order, half of the lines run the other way."""
    chance = np.random.default_rng(seed)
    made = []
    for n in chance.permutation(len(curves)):
        curve = curves[n]
        back = isinstance(curve, FlatLine) and chance.random() < 0.5
        made.append(FlatLine(curve.end, curve.start) if back else curve)
    return made


@pytest.mark.parametrize("seed", range(8))
def test_a_plate_with_holes_slots_and_an_island(seed) -> None:
    curves = (
        box(0, 0, 100, 60) + slot(20, 30, 15, 4) + [Arc((70, 30), 20, 0, TURN), Arc((70, 30), 5, 0, TURN)]
    )
    profile = find_regions(shuffled(curves, seed))
    assert not profile.amiss and profile.widest < 1e-12
    plate, island = profile.regions
    assert plate.area == pytest.approx(6000 - (120 + 16 * math.pi) - 400 * math.pi, rel=1e-12)
    assert plate.perimeter == pytest.approx(320 + 30 + 8 * math.pi + 40 * math.pi, rel=1e-12)
    assert len(plate.holes) == 2 and all(hole.area < 0 for hole in plate.holes)
    assert island.area == pytest.approx(25 * math.pi, rel=1e-12) and not island.holes


def test_ellipses_and_splines() -> None:
    half = math.sqrt(0.5)
    circle = Spline(
        2, (0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 4),
        ((3, 0), (3, 3), (0, 3), (-3, 3), (-3, 0), (-3, -3), (0, -3), (3, -3), (3, 0)),
        (1, half, 1, half, 1, half, 1, half, 1),
    )  # fmt: skip
    dome = [FlatEllipse((50, 0), (10, 0), 0.5, 0, math.pi), FlatLine((40, 0), (60, 0))]
    profile = find_regions([FlatEllipse((0, 0), (10, 5), 0.7, 0, TURN), circle, *dome])
    ring, half_ellipse = profile.regions
    assert ring.area == pytest.approx(math.pi * (125 * 0.7 - 9), rel=1e-11)
    assert half_ellipse.area == pytest.approx(math.pi * 25, rel=1e-11)
    assert not profile.amiss


def test_regions_side_by_side_share_curves() -> None:
    """A box cut in three by two lines; the middle one holds a hole."""
    rim = lines((0, 0), (10, 0), (20, 0), (30, 0), (30, 10), (20, 10), (10, 10), (0, 10))
    walls = [FlatLine((10, 0), (10, 10)), FlatLine((20, 10), (20, 0))]
    profile = find_regions([*rim, *walls, Arc((15, 5), 2, 0, TURN)])
    areas = sorted(region.area for region in profile.regions)
    assert areas == pytest.approx([100 - 4 * math.pi, 100, 100])


@pytest.mark.parametrize("gap", [0.0, 1e-6, 4e-3])
def test_ends_are_joined_within_what_is_told(gap) -> None:
    sides = [FlatLine((gap / 2, 0), (10, 0)), FlatLine((10, gap), (10, 10)), FlatLine((10, 10), (0, 10)),
             Arc((0, 5), 5, math.pi / 2, 1.5 * math.pi)]  # fmt: skip
    profile = find_regions(sides, within=0.01)
    (region,) = profile.regions
    assert not profile.amiss
    assert region.area == pytest.approx(100 + 12.5 * math.pi, abs=11 * gap + 1e-9)
    assert profile.widest == pytest.approx(gap, abs=1e-12)
    for n, back in region.rim.curves:  # what is joined meets exactly
        following = region.rim.curves[(region.rim.curves.index((n, back)) + 1) % 4]
        here = ends_of(profile.curves[n])[0 if back else 1]
        there = ends_of(profile.curves[following[0]])[1 if following[1] else 0]
        assert here == pytest.approx(there, abs=1e-12)
    torn = find_regions(sides, within=gap / 10) if gap else None
    if torn is not None:
        assert not torn.regions and len([a for a in torn.amiss if a.kind == "open"]) == 4


def test_what_is_open_double_or_crossing_is_told_with_its_place() -> None:
    tail = FlatLine((10, 10), (15, 18))
    again = FlatLine((10, 0), (0, 0))
    across = [*box(40, 0, 10, 10), *box(45, 5, 10, 10)]
    profile = find_regions(
        [*box(0, 0, 10, 10), tail, again, Arc((5, 5), 1, 0, TURN), Arc((5, 5), 1, 1, 1 + TURN), *across]
    )
    told = {
        kind: [a.point for a in profile.amiss if a.kind == kind] for kind in ("open", "double", "crossing")
    }
    assert told["open"] == [pytest.approx((15, 18))]
    assert len(told["double"]) == 2
    assert sorted(told["crossing"]) == [pytest.approx((45, 10), abs=0.02), pytest.approx((50, 5), abs=0.02)]
    assert profile.regions[0].area == pytest.approx(100 - math.pi) or profile.regions[2].area


def test_nothing_is_no_region() -> None:
    assert not find_regions([]).regions
    assert not find_regions([FlatLine((0, 0), (1, 1))]).regions


@pytest.mark.parametrize("seed", range(6))
def test_random_nets_of_rectangles_cover_what_they_cover(seed) -> None:
    """A grid of cells with some of the inner walls left out: areas add up to the whole."""
    chance = np.random.default_rng(seed)
    curves = []
    for x in range(6):
        for y in range(5):
            if x < 5 and (y in (0, 4) or chance.random() < 0.7):
                curves.append(FlatLine((x, y), (x + 1, y)))
            if y < 4 and (x in (0, 5) or chance.random() < 0.7):
                curves.append(FlatLine((x, y), (x, y + 1)))
    profile = find_regions(shuffled(curves, seed))
    assert math.fsum(region.area for region in profile.regions) == pytest.approx(20)
