"""Lengths, areas, volumes and masses in words, in the unit and with the places the reader wants."""

from __future__ import annotations

import math
from dataclasses import dataclass

__all__ = ["Figures", "count_of", "digits", "relative", "size_of_file"]

NOT_MEASURED = "not measured"
_INCH = 25.4


@dataclass(frozen=True, slots=True)
class Figures:
    """How figures are shown.

    Args:
        unit: "mm" or "inch"; figures come in as mm, mm2, mm3, kg/m3.
        decimals: decimal places of a length in mm; an inch shows one more.

    Example:
        >>> Figures().length(12.0), Figures("inch", 2).length(25.4)
        ('12.000 mm', '1.000 in')
        >>> Figures().mass(1_000_000.0, 7850.0)
        '7.85 kg'
    """

    unit: str = "mm"
    decimals: int = 3

    @property
    def is_inch(self) -> bool:
        """Whether inches are shown."""
        return self.unit == "inch"

    def length(self, mm: float) -> str:
        """A length with its unit."""
        if self.is_inch:
            return f"{mm / _INCH:,.{self.decimals + 1}f} in"
        return f"{mm:,.{self.decimals}f} mm"

    def deviation(self, mm: float | None) -> str:
        """A small distance, with as many places as it needs to be told from zero.

        Below a millionth of a millimetre nothing is told apart; that is what measuring is good for.
        """
        if mm is None:
            return NOT_MEASURED
        value, unit = (mm / _INCH, "in") if self.is_inch else (mm, "mm")
        if abs(mm) < 1e-6:
            return f"0 {unit}" if mm == 0 else "below 1 nm"
        places = max(self.decimals, 1 - math.floor(math.log10(abs(value))))
        return f"{value:.{places}f} {unit}"

    def point(self, x: float, y: float, z: float) -> str:
        """A place."""
        k, unit = (1 / _INCH, "in") if self.is_inch else (1.0, "mm")
        places = self.decimals + int(self.is_inch)
        return f"x {x * k:.{places}f}  y {y * k:.{places}f}  z {z * k:.{places}f} {unit}"

    def area(self, mm2: float) -> str:
        """An area, in cm2 above 100 cm2."""
        if self.is_inch:
            return f"{digits(mm2 / _INCH**2)} in\u00b2"
        return f"{digits(mm2 / 100)} cm\u00b2" if mm2 >= 1e4 else f"{digits(mm2)} mm\u00b2"

    def volume(self, mm3: float) -> str:
        """A volume, in cm3 above 100 cm3."""
        if self.is_inch:
            return f"{digits(mm3 / _INCH**3)} in\u00b3"
        return f"{digits(mm3 / 1000)} cm\u00b3" if abs(mm3) >= 1e5 else f"{digits(mm3)} mm\u00b3"

    def mass(self, mm3: float, density: float | None) -> str:
        """A mass, empty without a density; pounds with inches."""
        if density is None:
            return ""
        kilograms = mm3 * density * 1e-9
        if self.is_inch:
            return f"{kilograms / 0.45359237:.4g} lb"
        return f"{kilograms:.4g} kg" if kilograms >= 0.1 else f"{kilograms * 1000:.4g} g"

    def box(self, bbox: tuple[float, ...]) -> str:
        """The sides of a bounding box."""
        k, unit = (1 / _INCH, "in") if self.is_inch else (1.0, "mm")
        places = min(self.decimals, 2) + int(self.is_inch)
        sides = [f"{(high - low) * k:,.{places}f}" for low, high in zip(bbox[:3], bbox[3:], strict=True)]
        return " \u00d7 ".join(sides) + f" {unit}"


def digits(value: float) -> str:
    """Six significant digits, more where a whole number has more, never in powers of ten.

    Example:
        >>> digits(1867354.2), digits(0.0378800676), digits(-36592.48), digits(0.0)
        ('1,867,354', '0.0378801', '-36,592.5', '0')
    """
    if value == 0 or not math.isfinite(value):
        return f"{value + 0.0:.0f}"
    return f"{value:,.{max(5 - math.floor(math.log10(abs(value))), 0)}f}"


def relative(value: float | None) -> str:
    """A relative error."""
    if value is None:
        return NOT_MEASURED
    return "0" if value == 0 else f"{value:.1e}"


def count_of(number: int, word: str) -> str:
    """A number with its noun.

    Example:
        >>> count_of(1, "body"), count_of(2, "body"), count_of(1200, "solid"), count_of(2, "boss")
        ('1 body', '2 bodies', '1,200 solids', '2 bosses')
    """
    plural = f"{word[:-1]}ies" if word.endswith("y") else f"{word}es" if word.endswith("s") else f"{word}s"
    return f"{number:,} {word if number == 1 else plural}"


def size_of_file(count: int) -> str:
    """A number of bytes for people."""
    if count < 1000:
        return f"{count} bytes"
    return f"{count / 1e6:.1f} MB" if count >= 1e6 else f"{count / 1e3:.0f} kB"
