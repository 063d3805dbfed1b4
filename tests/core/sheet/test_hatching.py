"""Hatching within outlines whose areas are known."""

import numpy as np
import pytest

from gondrel.core.sheet.hatching import Hatch, apart_hatches, hatch_for, hatch_lines


def rim(*corners) -> np.ndarray:
    points = np.array(corners, float)
    return np.stack([points, np.roll(points, -1, axis=0)], axis=1)


SQUARE = rim((0, 0), (40, 0), (40, 30), (0, 30))
HOLE = rim((10, 10), (20, 10), (20, 20), (10, 20))


def covered(lines: np.ndarray, spacing: float) -> float:
    return float(np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum()) * spacing


@pytest.mark.parametrize("angle", [0.0, 30.0, 45.0, 90.0, 135.0])
def test_lines_cover_the_area_and_leave_holes_free(angle) -> None:
    spacing = 0.05
    lines = hatch_lines(np.concatenate([SQUARE, HOLE]), Hatch(angle), spacing)
    assert covered(lines, spacing) == pytest.approx(1200 - 100, rel=5e-3)
    middles = lines.mean(axis=1)
    inside = (np.abs(middles - 15) < 4.9).all(axis=1)
    assert not inside.any()
    ways = lines[:, 1] - lines[:, 0]
    along = np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle))])
    assert np.abs(ways - np.outer(ways @ along, along)).max() < 1e-9


def test_crossed_doubled_and_dashed() -> None:
    plain = covered(hatch_lines(SQUARE, Hatch(), 0.1), 0.1)
    assert covered(hatch_lines(SQUARE, Hatch(crossed=True), 0.1), 0.1) == pytest.approx(2 * plain, rel=1e-2)
    assert covered(hatch_lines(SQUARE, Hatch(doubled=True), 0.1), 0.1) == pytest.approx(2 * plain, rel=1e-2)
    assert covered(hatch_lines(SQUARE, Hatch(dashed=True), 0.1), 0.1) == pytest.approx(
        plain * 2 / 3, rel=2e-2
    )
    assert len(hatch_lines(np.empty((0, 2, 2)), Hatch(), 1.0)) == 0


def test_parts_that_touch_differ() -> None:
    ring = {place: [(place - 1) % 5, (place + 1) % 5] for place in range(5)}
    hatches = apart_hatches([Hatch()] * 5, ring)
    assert all(hatches[place] != hatches[other] for place in ring for other in ring[place])
    crowd = {place: [other for other in range(15) if other != place] for place in range(15)}
    assert len(set(apart_hatches([Hatch()] * 15, crowd))) == 15
    assert apart_hatches([Hatch()] * 3, {}) == [Hatch()] * 3


def test_kinds_of_material_have_their_pattern() -> None:
    kinds = [hatch_for(name) for name in ("Steel C45", "Cast iron EN-GJL-250", "Bronze CuSn8", "ABS", "")]
    assert len(set(kinds[:4])) == 4 and kinds[4] == kinds[0]
    assert hatch_for("Aluminium EN AW-6082").dashed
