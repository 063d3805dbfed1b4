"""Parts computed anew from their features: proven equal, and changed against closed forms."""

from __future__ import annotations

import math

import pytest

from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.features.changes import change_of, changed_recipe
from gondrel.core.features.rebuild import recipe_of, remade
from gondrel.core.kernel.base.shape import split_bodies
from gondrel.core.kernel.inspect.face_graph import face_graph_of
from gondrel.core.kernel.measure.mass import measure
from tests.core.features.made import PARTS, bevelled, box, cone, cut, fuse, lines, rod, rounded
from tests.core.features.test_find import features_of

pytestmark = pytest.mark.slow


class Taken:
    """A solid, its features, recipe and base."""

    def __init__(self, shape) -> None:
        ((_, self.solid),) = split_bodies(shape)
        self.features = features_of(self.solid)
        self.rebuilt, self.base = recipe_of(self.solid, face_graph_of(self.solid), self.features)

    def number(self, kind: str) -> int:
        return next(n for n, f in enumerate(self.features, 1) if f.kind == kind)

    def volume(self, *changes: str) -> float:
        recipe = changed_recipe(self.rebuilt.recipe, [change_of(text) for text in changes])
        return measure(remade(recipe, self.base)).volume


def test_the_set_proves_equal() -> None:
    equal, taken_off, there = 0, 0, 0
    for _, make, _ in PARTS:
        taken = Taken(make())
        equal += taken.rebuilt.equal
        taken_off += len(taken.rebuilt.recipe.steps)
        there += sum(f.kind not in ("pattern", "revolution") for f in taken.features)
    assert equal >= 0.9 * len(PARTS)
    assert taken_off >= 0.9 * there


@pytest.mark.parametrize(
    ("shape", "kind", "volume"),
    [
        (cut(box(40, 30, 8), rod(3, 20, (20, 15, -5))), "extrusion", 9600 - 72 * math.pi),
        (fuse(rod(10, 20), rod(6, 30)), "revolution", math.pi * (2000 + 360)),
        (cut(fuse(rod(12, 30), rod(8, 40)), rod(5, 50)), "revolution", math.pi * (4320 + 640 - 1000)),
    ],
)  # fmt: skip
def test_the_base_is_what_it_is(shape, kind, volume) -> None:
    taken = Taken(shape)
    assert taken.rebuilt.equal and taken.rebuilt.recipe.base.kind == kind
    assert taken.volume() == pytest.approx(volume, rel=1e-9)


def test_a_hole_from_8_to_10_mm() -> None:
    taken = Taken(cut(box(60, 40, 12), rod(4, 30, (20, 20, -5)), rod(4, 30, (40, 20, -5))))
    assert taken.volume("1 diameter 10") == pytest.approx(28800 - 12 * math.pi * (25 + 16), rel=1e-9)
    assert taken.volume("1 diameter 10", "2 diameter 6") == pytest.approx(
        28800 - 12 * math.pi * 34, rel=1e-9
    )
    assert taken.volume("1 remove") == pytest.approx(28800 - 12 * math.pi * 16, rel=1e-9)
    assert taken.volume("1 move 0,5,0") == pytest.approx(28800 - 24 * math.pi * 16, rel=1e-9)
    wider = 12 * math.pi * 32 + 4 * math.pi * (49 - 16)
    changes = ("1 kind counterbore", "1 counterbore_diameter 14", "1 counterbore_depth 4")
    assert taken.volume(*changes) == pytest.approx(28800 - wider, rel=1e-9)
    sunk = ("1 kind countersink", "1 countersink_diameter 12", "1 countersink_angle 90")
    taper = math.pi * 2 / 3 * (36 + 24 + 16) - math.pi * 2 * 16
    assert taken.volume(*sunk) == pytest.approx(28800 - 24 * math.pi * 16 - taper, rel=1e-9)


def test_a_blind_hole_with_a_drill_point_gets_deeper() -> None:
    tip = 4 / math.tan(math.radians(59))
    tool = fuse(rod(4, 10, (20, 20, 10)), cone(0, 4, tip, (20, 20, 10 - tip)))
    taken = Taken(cut(box(40, 40, 20), tool))
    assert taken.rebuilt.equal
    point = math.pi * 16 * tip / 3
    assert taken.volume() == pytest.approx(32000 - 160 * math.pi - point, rel=1e-9)
    assert taken.volume("1 depth 13") == pytest.approx(32000 - 208 * math.pi - point, rel=1e-9)


def test_a_fillet_from_3_to_2_mm() -> None:
    block = box(40, 30, 10)
    taken = Taken(rounded(block, 3, lines(block, 2)))
    numbers = [n for n, f in enumerate(taken.features, 1) if f.kind == "fillet"]
    volume = taken.volume(*(f"{n} radius 2" for n in numbers))
    assert volume == pytest.approx(12000 - 10 * (4 - math.pi) * 4, rel=1e-9)


def test_a_chamfer_and_a_pocket() -> None:
    block = box(40, 30, 10)
    taken = Taken(bevelled(block, 2, lines(block, 2)))
    numbers = [n for n, f in enumerate(taken.features, 1) if f.kind == "chamfer"]
    assert taken.volume(*(f"{n} distance 3" for n in numbers)) == pytest.approx(12000 - 4 * 45, rel=1e-9)
    taken = Taken(cut(box(60, 40, 20), box(30, 20, 10, (15, 10, 12))))
    assert taken.volume("1 depth 11") == pytest.approx(48000 - 600 * 11, rel=1e-9)
    assert taken.volume("1 move 5,0,0") == pytest.approx(48000 - 600 * 8, rel=1e-9)


def test_three_of_a_pattern_of_six() -> None:
    holes = [rod(3, 30, (30 + 20 * math.cos(t), 30 + 20 * math.sin(t), -5)) for t in
             (math.pi / 3 * n for n in range(6))]  # fmt: skip
    taken = Taken(cut(box(60, 60, 10), *holes))
    number = taken.number("pattern")
    one = 90 * math.pi
    assert taken.volume(f"{number} count 3") == pytest.approx(36000 - 3 * one, rel=1e-9)
    assert taken.volume(f"{number} diameter 8") == pytest.approx(36000 - 6 * 160 * math.pi, rel=1e-9)
    eight = taken.volume(f"{number} angle 45", f"{number} count 8")
    assert eight == pytest.approx(36000 - 8 * one, rel=1e-9)
    taken = Taken(cut(box(90, 20, 10), *(rod(3, 30, (10 + 14 * n, 10, -5)) for n in range(5))))
    number = taken.number("pattern")
    assert taken.volume(f"{number} pitch 17") == pytest.approx(18000 - 5 * one, rel=1e-9)
    assert taken.volume(f"{number} pitch 30") == pytest.approx(
        18000 - 3 * one, rel=1e-9
    )  # two miss the block


def test_a_slot_and_a_boss() -> None:
    slot = fuse(rod(4, 30, (20, 20, -5)), rod(4, 30, (40, 20, -5)), box(20, 8, 30, (20, 16, -5)))
    taken = Taken(cut(box(60, 40, 10), slot))
    area = 24 * 8 + 16 * math.pi
    assert taken.volume("1 length 32") == pytest.approx(24000 - 10 * area, rel=1e-9)
    taken = Taken(fuse(box(60, 40, 10), rod(6, 8, (30, 20, 10))))
    number = taken.number("boss")
    assert taken.volume(f"{number} height 12") == pytest.approx(24000 + 432 * math.pi, rel=1e-9)


def test_what_can_not_be_is_refused_by_name() -> None:
    taken = Taken(cut(box(60, 40, 12), rod(4, 30, (20, 20, -5))))
    for text in ("7 diameter 3", "1 colour 3", "1 diameter -3", "1 diameter wide", "1 kind pocket",
                 "1 move 3", "1 counterbore_depth 3 4"):  # fmt: skip
        with pytest.raises(UsageError):
            taken.volume(text)
    for text in ("diameter 10", "1", "1 diameter", "x y z"):
        with pytest.raises(UsageError):
            change_of(text)
    block = box(20, 20, 20)
    taken = Taken(rounded(block, 2, lines(block, 2)))
    with pytest.raises(GondrelError, match="fillet"):
        taken.volume("1 radius 30")
    with pytest.raises(UsageError, match="can't be moved"):
        taken.volume("1 move 1,0,0")
