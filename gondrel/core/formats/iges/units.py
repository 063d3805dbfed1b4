"""Length units and editions as the global section gives them.

Source: IGES 5.3 (US PRO/IPO-100), clause 2.2.4.3.14 (unit flags 1 to 11) and 2.2.4.3.23 (versions),
from memory; sizes of the units by the international yard and pound agreement of 1959.
"""

from __future__ import annotations

from gondrel.core.formats.iges.records import IgesFile
from gondrel.core.model.units import BY_KEY, INCH, LengthUnit, unit_of_size

__all__ = ["FLAGS", "NAMES", "VERSIONS", "edition_of", "flag_of", "unit_of"]

FLAGS: dict[int, tuple[str, float]] = {
    1: ("IN", 25.4), 2: ("MM", 1.0), 4: ("FT", 304.8), 5: ("MI", 1_609_344.0), 6: ("M", 1000.0),
    7: ("KM", 1_000_000.0), 8: ("MIL", 0.0254), 9: ("UM", 0.001), 10: ("CM", 10.0), 11: ("UIN", 2.54e-5),
}  # fmt: skip
"""Name and size in millimetres of each unit flag; flag 3 leaves the unit to its name."""

NAMES = {"INCH": 1, **{name: flag for flag, (name, _) in FLAGS.items()}}
_OWN_KEYS = {5: "mile", 11: "microinch"}

VERSIONS = {
    1: "1.0", 2: "ANSI Y14.26M-1981", 3: "2.0", 4: "3.0", 5: "ASME/ANSI Y14.26M-1987", 6: "4.0",
    7: "ASME Y14.26M-1989", 8: "5.0", 9: "5.1", 10: "5.2", 11: "5.3",
}  # fmt: skip


def flag_of(file: IgesFile) -> int:
    """The unit flag that holds, 0 when neither flag nor name says a unit that is known."""
    said = int(file.number(14, 1))
    if said == 3:
        return NAMES.get(file.said(15).strip().upper(), 0)
    return said if said in FLAGS else 0


def unit_of(file: IgesFile) -> LengthUnit:
    """The length unit; the inch when none that is known is given, as the standard's default has it."""
    flag = flag_of(file)
    if not flag:
        return INCH
    name, size = FLAGS[flag]
    unit = unit_of_size(size, name)
    return unit if unit.key in BY_KEY else LengthUnit(_OWN_KEYS.get(flag, name.lower()), size, name)


def edition_of(file: IgesFile) -> tuple[int, str]:
    """Version flag and its edition for people; a flag outside the table counts as 3 (version 2.0)."""
    flag = int(file.number(23, 3))
    flag = 3 if flag < 1 else min(flag, 11)
    return flag, VERSIONS[flag]
