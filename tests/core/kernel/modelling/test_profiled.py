"""Bodies of flat regions against closed forms."""

import math

import pytest

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.modelling.profiled import extruded, region_face, revolved
from gondrel.core.model.outline import Arc, FlatEllipse, FlatLine, Spline
from gondrel.core.sheet.regions import find_regions
from tests.core.sheet.test_regions import TURN, box, slot


def face_of(curves):
    profile = find_regions(curves)
    return region_face(profile, profile.regions[0]), profile.regions[0]


def volume(shape) -> float:
    return measure(shape).volume


def test_a_plate_with_holes() -> None:
    face, _ = face_of(box(0, 0, 100, 60) + slot(20, 30, 15, 4) + [Arc((70, 30), 20, 0, TURN)])
    area = 6000 - 120 - 16 * math.pi - 400 * math.pi
    assert measure(face).area == pytest.approx(area, rel=1e-9)
    for depth, both in ((8, False), (-8, False), (8, True)):
        solid = measure(extruded(face, depth, both=both))
        assert solid.volume == pytest.approx(8 * area, rel=1e-9)
        low, high = solid.bbox[2], solid.bbox[5]
        assert (low, high) == pytest.approx(
            {8: (0, 8), -8: (-8, 0)}[depth] if not both else (-4, 4), abs=1e-6
        )


def test_an_outline_of_splines_and_ellipses() -> None:
    wave = Spline(
        3, (0, 0, 0, 0, 1, 1, 1, 1), ((0, 0), (10, 15), (20, -15), (30, 0))
    )  # as much above as below
    curves = [wave, FlatLine((30, 0), (30, 40)), FlatEllipse((15, 40), (15, 0), 0.5, 0, math.pi),
              FlatLine((0, 40), (0, 0))]  # fmt: skip
    face, region = face_of(curves)
    expected = 1200 + math.pi * 15 * 7.5 / 2
    assert region.area == pytest.approx(expected, rel=1e-12)
    assert volume(extruded(face, 5)) == pytest.approx(5 * expected, rel=1e-8)


@pytest.mark.parametrize("degrees", [2, 10])
def test_a_draft_makes_a_frustum(degrees) -> None:
    lean = math.tan(math.radians(degrees))
    face, _ = face_of(box(0, 0, 40, 30))
    height = 12
    top = (40 - 2 * height * lean) * (30 - 2 * height * lean)
    middle = (40 - height * lean) * (30 - height * lean)
    solid = extruded(face, height, draft=math.radians(degrees))
    assert volume(solid) == pytest.approx(height / 6 * (1200 + 4 * middle + top), rel=1e-9)
    both = extruded(face, 2 * height, both=True, draft=math.radians(degrees))
    assert volume(both) == pytest.approx(2 * volume(solid), rel=1e-9)
    round_face, _ = face_of([Arc((0, 0), 10, 0, TURN)])
    cone = extruded(round_face, height, draft=math.radians(degrees))
    small = 10 - height * lean
    assert volume(cone) == pytest.approx(math.pi * height / 3 * (100 + 10 * small + small**2), rel=1e-9)
    with pytest.raises(KernelRefused):
        extruded(face, 40, draft=math.radians(60))


@pytest.mark.parametrize("angle", [TURN, math.pi / 3])
def test_revolutions_by_the_rule_of_pappus(angle) -> None:
    face, _ = face_of([Arc((20, 5), 4, 0, TURN)])
    turned = revolved(face, angle, (0, 0), (0, 1))
    assert volume(turned) == pytest.approx(angle * 20 * 16 * math.pi, rel=1e-9)
    slanted = revolved(face, angle, (0, 0), (1, 1))
    assert volume(slanted) == pytest.approx(angle * 15 / math.sqrt(2) * 16 * math.pi, rel=1e-9)


def test_what_makes_no_body_is_refused() -> None:
    face, _ = face_of(box(0, 0, 4, 3))
    for make in (lambda: extruded(face, 0), lambda: revolved(face, 1, (0, 0), (0, 0))):
        with pytest.raises(KernelRefused):
            make()
