"""Edits against closed forms, with the faces followed."""

from __future__ import annotations

import math
from collections.abc import Callable

import pytest

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import Shape, edges_of, faces_of
from gondrel.core.kernel.inspect.small_faces import chamfer_faces, fillet_faces, hole_faces
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.modelling import build, edits
from gondrel.core.kernel.modelling.followed import Followed

BLOCK = 40.0 * 30 * 20


def block() -> Shape:
    return build.block(40, 30, 20)


def top(shape: Shape) -> list[int]:
    return [i for i, f in enumerate(faces_of(shape)) if abs(measure(f).centroid[2] - 20) < 1e-6]


def length_of(shape: Shape, edge: int) -> float:
    return measure(edges_of(shape)[edge]).length


_SINK = 3.0
"""Depth of a countersink of 12 mm and 90 degrees over a hole of 6."""

CASES: dict[str, tuple[Callable[[], Followed], float]] = {
    "hole": (lambda: edits.with_hole(block(), (20, 15, 20), (0, 0, -1), 8), BLOCK - math.pi * 16 * 20),
    "blind hole": (
        lambda: edits.with_hole(block(), (20, 15, 20), (0, 0, -1), 8, 12), BLOCK - math.pi * 16 * 12
    ),
    "counterbore": (
        lambda: edits.with_hole(block(), (20, 15, 20), (0, 0, -1), 6, bore=(11, 6)),
        BLOCK - math.pi * 9 * 14 - math.pi * 5.5**2 * 6,
    ),
    "countersink": (
        lambda: edits.with_hole(block(), (20, 15, 20), (0, 0, -1), 6, sink=(12, 90)),
        BLOCK - math.pi * 9 * (20 - _SINK) - math.pi * _SINK / 3 * (36 + 18 + 9),
    ),
    "fillet": (
        lambda: edits.filleted(block(), [0], 3), BLOCK - (9 - math.pi * 9 / 4) * length_of(block(), 0)
    ),
    "chamfer": (lambda: edits.chamfered(block(), [0], 3), BLOCK - 4.5 * length_of(block(), 0)),
    "shell": (lambda: edits.shelled(block(), top(block()), 2), BLOCK - 36 * 26 * 18),
    "cut": (lambda: edits.cut_by_plane(block(), (10, 0, 0), (1, 0, 0)), BLOCK / 4),
    "unite": (lambda: edits.united(block(), [build.block(40, 30, 10, at=(0, 0, 20))]), BLOCK * 1.5),
    "common": (lambda: edits.with_common(block(), build.block(10, 10, 10)), 1000),
    "scale": (lambda: edits.scaled(block(), 2, (1, 2, 3)), BLOCK * 8),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_the_volume_is_that_of_the_closed_form(name: str) -> None:
    make, volume = CASES[name]
    made = make()
    assert measure(made.shape).volume == pytest.approx(volume, rel=1e-9)
    assert len(made.sources) == len(faces_of(made.shape))


def _normal_kind(shape: Shape, face: int) -> tuple[float, ...]:
    """What stays of a plane face however much of it is cut away: the axis it is normal to and where."""
    box = measure(faces_of(shape)[face]).bbox
    return tuple(round(box[i], 6) if abs(box[i + 3] - box[i]) < 1e-6 else math.inf for i in range(3))


@pytest.mark.parametrize("name", ["hole", "counterbore", "fillet", "chamfer", "cut", "unite"])
def test_a_face_that_is_followed_lies_in_the_plane_it_lay_in(name: str) -> None:
    made = CASES[name][0]()
    followed = [(now, was) for now, was in enumerate(made.sources) if was >= 0]
    assert len(followed) >= 4
    for now, was in followed:
        assert _normal_kind(made.shape, now) == _normal_kind(block(), was)


def drilled() -> Shape:
    small = edits.with_hole(block(), (10, 15, 20), (0, 0, -1), 5).shape
    return edits.with_hole(small, (28, 15, 20), (0, 0, -1), 12, bore=(16, 5)).shape


def test_small_holes_are_filled_and_large_ones_stay() -> None:
    shape = drilled()
    made = edits.without_faces(shape, hole_faces(shape, 8))
    assert measure(made.shape).volume == pytest.approx(BLOCK - math.pi * (36 * 15 + 64 * 5), rel=1e-9)
    assert len(hole_faces(shape, 20)) == 4 and len(made.gone) == 1


def test_fillets_go_and_the_block_is_whole_again() -> None:
    shape = edits.filleted(block(), [0, 1, 2, 3], 3).shape
    assert fillet_faces(shape, 2.9) == []
    made = edits.without_faces(shape, fillet_faces(shape, 3.1))
    assert measure(made.shape).volume == pytest.approx(BLOCK, rel=1e-9)


def test_bevels_go_and_nothing_else_is_taken_for_one() -> None:
    assert chamfer_faces(block(), 50) == [] and chamfer_faces(drilled(), 50) == []
    shape = edits.chamfered(block(), [0, 5], 1).shape
    found = chamfer_faces(shape, 1.5)  # a bevel of 1 by 1 mm is 1.414 mm wide
    assert len(found) == 2 and chamfer_faces(shape, 1.4) == []
    made = edits.without_faces(shape, found)
    assert measure(made.shape).volume == pytest.approx(BLOCK, rel=1e-9)
    pin = build.turned([(0, 0), (9, 0), (10, 1), (10, 39), (9, 40), (0, 40)])
    made = edits.without_faces(pin, chamfer_faces(pin, 2))
    assert measure(made.shape).volume == pytest.approx(math.pi * 100 * 40, rel=1e-9)


@pytest.mark.parametrize("thickness", [2.0, -2.0])
def test_a_sheet_becomes_a_solid(thickness: float) -> None:
    sheet = faces_of(block())[0]
    made = edits.thickened(sheet, thickness)
    assert measure(made.shape).volume == pytest.approx(2 * measure(sheet).area, rel=1e-9)
    with pytest.raises(KernelRefused, match="must not be 0"):
        edits.thickened(sheet, 0)


def test_faces_that_were_made_or_are_gone_are_told() -> None:
    hole = CASES["hole"][0]()
    assert hole.sources.count(-1) == 1 and not hole.gone
    cut = CASES["cut"][0]()
    assert cut.sources.count(-1) == 1 and len(cut.gone) == 1


@pytest.mark.parametrize(
    ("do", "why"),
    [
        (lambda: edits.with_hole(block(), (200, 15, 20), (0, 0, -1), 8), "meets no material"),
        (lambda: edits.with_hole(block(), (20, 15, 20), (0, 0, -1), 0), "above 0"),
        (lambda: edits.with_hole(block(), (20, 15, 20), (0, 0, -1), 8, bore=(6, 3)), "wider"),
        (lambda: edits.filleted(block(), [0], 50), "no room"),
        (
            lambda: edits.without(block(), [build.block(99, 99, 99, at=(-9, -9, -9))]),
            "nothing would be left",
        ),
        (lambda: edits.united(block(), [build.block(1, 1, 1, at=(100, 0, 0))]), "do not touch"),
        (lambda: edits.cut_by_plane(block(), (100, 0, 0), (1, 0, 0)), "does not cross"),
        (lambda: edits.shelled(block(), top(block()), 25), "no room"),
        (lambda: edits.scaled(block(), 0, (0, 0, 0)), "above 0"),
    ],
)
def test_what_makes_no_valid_solid_is_refused_with_the_reason(do: Callable[[], Followed], why: str) -> None:
    with pytest.raises(KernelRefused, match=why):
        do()
