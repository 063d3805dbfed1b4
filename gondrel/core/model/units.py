"""Length units: the model is in millimetres; a file's own unit is kept as a fact."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["BY_KEY", "INCH", "METRE", "MILLIMETRE", "LengthUnit", "unit_of_size"]


@dataclass(frozen=True, slots=True)
class LengthUnit:
    """A length unit.

    Args:
        key: short name used on the command line and in files of ours.
        mm: millimetres in one unit.
        step_name: the name a CONVERSION_BASED_UNIT gets in STEP, empty for SI units.
        si_prefix: the SI prefix in STEP for SI units ("" for the bare metre).
    """

    key: str
    mm: float
    step_name: str = ""
    si_prefix: str = ""


MILLIMETRE = LengthUnit("mm", 1.0, si_prefix="MILLI")
METRE = LengthUnit("m", 1000.0)
INCH = LengthUnit("inch", 25.4, step_name="INCH")
BY_KEY: dict[str, LengthUnit] = {
    unit.key: unit
    for unit in (
        MILLIMETRE,
        METRE,
        INCH,
        LengthUnit("cm", 10.0, si_prefix="CENTI"),
        LengthUnit("um", 0.001, si_prefix="MICRO"),
        LengthUnit("km", 1_000_000.0, si_prefix="KILO"),
        LengthUnit("foot", 304.8, step_name="FOOT"),
        LengthUnit("mil", 0.0254, step_name="MIL"),
    )
}
"""Units by key. Source: international yard and pound agreement of 1959 (1 inch = 25.4 mm exactly)."""


def unit_of_size(mm: float, name: str = "") -> LengthUnit:
    """The known unit of this size in millimetres, or one of its own under the file's name."""
    for unit in BY_KEY.values():
        if abs(unit.mm - mm) <= 1e-9 * unit.mm:
            return unit
    return LengthUnit(name.lower() or f"{mm:g} mm", mm, step_name=name.upper() or "OTHER")
