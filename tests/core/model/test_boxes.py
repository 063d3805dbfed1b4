"""Boxes in their places."""

from __future__ import annotations

import numpy as np
import pytest

from gondrel.core.model.boxes import placed_boxes, placed_points

QUARTER = np.array([[0, -2, 0, 5], [2, 0, 0, 6], [0, 0, 2, 7], [0, 0, 0, 1]], float)
"""A quarter turn about z at twice the size, and away."""


def test_a_box_is_turned_sized_and_moved() -> None:
    boxes = placed_boxes(QUARTER[None], np.array([[[0, 0, 0], [1, 2, 3]]], float))
    assert boxes[0].tolist() == [[1, 6, 7], [5, 8, 13]]


def test_a_turned_box_holds_all_its_corners() -> None:
    turn, half = np.eye(4), np.sqrt(0.5)
    turn[:2, :2] = [[half, -half], [half, half]]
    (low, high), other = placed_boxes(
        np.stack([turn, np.eye(4)]), np.array([[[-1, -1, 0], [1, 1, 1]]], float)
    )
    assert high == pytest.approx([np.sqrt(2), np.sqrt(2), 1]) and low == pytest.approx([*-high[:2], 0])
    assert other.tolist() == [[-1, -1, 0], [1, 1, 1]]


def test_points_go_each_with_its_placement() -> None:
    both = placed_points(np.stack([QUARTER, np.eye(4)]), np.array([[1, 0, 0], [1, 0, 0]], float))
    assert both.tolist() == [[5, 8, 7], [1, 0, 0]]
