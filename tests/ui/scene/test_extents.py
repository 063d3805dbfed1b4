"""Boxes in bulk stand where their instances do, also when some of them go."""

from __future__ import annotations

import numpy as np
import pytest

from gondrel.ui.scene.extents import Extents

LOW, HIGH = np.array([-1.0, 0.0, 2.0]), np.array([3.0, 5.0, 4.0])


def _places(count: int, seed: int = 0) -> np.ndarray:
    """Turned and shifted places, every second one mirrored."""
    chance = np.random.default_rng(seed)
    places = np.tile(np.eye(4), (count, 1, 1))
    for number, place in enumerate(places):
        turn, _ = np.linalg.qr(chance.normal(size=(3, 3)))
        wanted = -1.0 if number % 2 else 1.0
        place[:3, :3] = turn * (wanted * np.sign(np.linalg.det(turn)))
        place[:3, 3] = chance.uniform(-100, 100, 3)
    return places


def _corners(place: np.ndarray, low: np.ndarray, high: np.ndarray) -> list[np.ndarray]:
    own = [
        np.array([x, y, z]) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])
    ]
    return [place[:3, :3] @ corner + place[:3, 3] for corner in own]


def test_each_corner_stands_in_its_place_and_the_box_goes_round_them() -> None:
    extents, places = Extents(), _places(6)
    told = extents.add(places, LOW, HIGH)
    assert told == pytest.approx(extents.boxes)
    for number, place in enumerate(places):
        wanted = np.array(_corners(place, LOW, HIGH))
        assert extents.corners[number] == pytest.approx(wanted, abs=1e-4)  # single precision, at 100 mm
        assert extents.boxes[number] == pytest.approx(np.array([wanted.min(axis=0), wanted.max(axis=0)]))
    assert extents.mirrored.tolist() == [False, True] * 3


def test_what_is_kept_stays_in_its_order_and_more_comes_behind() -> None:
    extents, places = Extents(), _places(5)
    extents.add(places[:2], LOW, HIGH)
    extents.add(places[2:], 2 * LOW, 2 * HIGH)
    before = extents.boxes.copy(), extents.corners.copy()
    kept = np.array([True, False, True, False, True])
    extents.keep(kept)
    extents.add(places[1:2], LOW, HIGH)
    order = [0, 2, 4, 1]
    assert extents.boxes == pytest.approx(before[0][order])
    assert extents.corners == pytest.approx(before[1][order])
    assert extents.mirrored.tolist() == [False, False, False, True]


def test_boxes_stay_the_same_array_until_something_changes() -> None:
    extents = Extents()
    extents.add(_places(3), LOW, HIGH)
    known = extents.boxes
    assert extents.boxes is known
    extents.add(_places(1), LOW, HIGH)
    assert extents.boxes is not known and len(extents.boxes) == 4
