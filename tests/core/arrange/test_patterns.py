"""How copies stand to one another."""

from __future__ import annotations

import math

import pytest

from gondrel.core.arrange.patterns import pattern_of

LINE = [(5.0 + 12 * n, 3.0, 1.0) for n in range(5)]
CIRCLE = [(40 * math.cos(n * math.pi / 3), 7.0, 40 * math.sin(n * math.pi / 3)) for n in range(6)]
GRID = [(20.0 * r, 1.0, 15.0 * c) for r in range(3) for c in range(2)]


@pytest.mark.parametrize(
    ("places", "kind", "words"),
    [(LINE, "line", "12 mm apart"), (CIRCLE, "circle", "80 mm"), (GRID, "grid", "by")],
)
def test_regular_orders_are_told(places: list, kind: str, words: str) -> None:
    found = pattern_of(places)
    assert found is not None and found.kind == kind and words in found.words


def test_what_is_not_regular_has_no_pattern() -> None:
    assert pattern_of(LINE[:2]) is None
    assert pattern_of([*LINE[:4], (70.0, 3.0, 1.0)]) is None
    assert pattern_of(CIRCLE[:5]) is None
    assert pattern_of(GRID[:5]) is None
    assert pattern_of([(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1)]) is None
