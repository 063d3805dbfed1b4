"""Figures in words."""

from __future__ import annotations

import pytest

from gondrel.core.reports.figures import Figures, digits, relative, size_of_file

MM, INCH = Figures("mm", 3), Figures("inch", 3)


def test_lengths_have_a_unit_and_the_places_asked_for() -> None:
    assert MM.length(1234.5) == "1,234.500 mm"
    assert Figures("mm", 1).length(12.34) == "12.3 mm"
    assert INCH.length(25.4) == "1.0000 in"


@pytest.mark.parametrize(
    ("mm", "text"),
    [(0.0, "0 mm"), (3e-7, "below 1 nm"), (0.00042, "0.00042 mm"), (0.5, "0.500 mm"), (12.0, "12.000 mm")],
)
def test_deviations_have_as_many_places_as_they_need(mm: float, text: str) -> None:
    assert MM.deviation(mm) == text


def test_areas_volumes_and_masses_change_their_unit_with_size() -> None:
    assert MM.area(678.9) == "678.900 mm\u00b2"
    assert MM.area(123456.0) == "1,234.56 cm\u00b2"
    assert MM.volume(764518.0) == "764.518 cm\u00b3"
    assert MM.volume(0.0) == "0 mm\u00b3"
    assert INCH.volume(25.4**3) == "1.00000 in\u00b3"
    assert MM.mass(1000.0, 7850.0) == "7.85 g"
    assert MM.mass(1000.0, None) == ""
    # 1 lb = 0.45359237 kg exactly: international yard and pound agreement of 1959
    assert INCH.mass(1e9, 0.45359237) == "1 lb"


def test_places_boxes_and_sizes() -> None:
    assert MM.point(1, 2, -3) == "x 1.000  y 2.000  z -3.000 mm"
    assert MM.box((0, 0, 0, 10, 20, 30)) == "10.00 \u00d7 20.00 \u00d7 30.00 mm"
    assert INCH.box((0, 0, 0, 25.4, 50.8, 76.2)) == "1.000 \u00d7 2.000 \u00d7 3.000 in"
    assert relative(0) == "0"
    assert relative(3.14e-9) == "3.1e-09"
    assert [size_of_file(n) for n in (12, 4200, 9_016_711)] == ["12 bytes", "4 kB", "9.0 MB"]


@pytest.mark.parametrize(
    ("value", "told"),
    [(1867354.2, "1,867,354"), (0.0378800676, "0.0378801"), (3.78800676e-8, "0.0000000378801"),
     (-36592.48, "-36,592.5"), (0.0, "0"), (-0.0, "0"), (999999.96, "1,000,000")],
)  # fmt: skip
def test_six_digits_without_an_exponent(value: float, told: str) -> None:
    assert digits(value) == told
