"""Figures with the digits that mean something."""

from __future__ import annotations

import pytest

from gondrel.ui.presenters.measures import digits


@pytest.mark.parametrize(
    ("value", "told"),
    [(1867354.2, "1,867,350"), (0.0378800676, "0.0378801"), (-36592.48, "-36,592.5"), (0.0, "0"),
     (999999.96, "1,000,000")],
)  # fmt: skip
def test_six_digits_without_an_exponent(value: float, told: str) -> None:
    assert digits(value) == told
