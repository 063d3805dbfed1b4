"""Units of a STEP file from its records.

Source: ISO 10303-41, support_resource and measure_schema (SI_UNIT, CONVERSION_BASED_UNIT,
DERIVED_UNIT); prefixes from the SI brochure.
"""

from __future__ import annotations

from collections import Counter

from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import Enumeration, InstanceReference, Parameter, Typed
from gondrel.core.model.units import MILLIMETRE, LengthUnit, unit_of_size

__all__ = [
    "SI_PREFIXES",
    "angle_factor",
    "angle_unit",
    "context_unit",
    "length_units",
    "measure_value",
    "unit_factor",
]

SI_PREFIXES = {
    "EXA": ("E", 1e18), "PETA": ("P", 1e15), "TERA": ("T", 1e12), "GIGA": ("G", 1e9), "MEGA": ("M", 1e6),
    "KILO": ("k", 1e3), "HECTO": ("h", 1e2), "DECA": ("da", 1e1), "DECI": ("d", 1e-1), "CENTI": ("c", 1e-2),
    "MILLI": ("m", 1e-3), "MICRO": ("u", 1e-6), "NANO": ("n", 1e-9), "PICO": ("p", 1e-12),
    "FEMTO": ("f", 1e-15), "ATTO": ("a", 1e-18),
}  # fmt: skip
"""The words of si_prefix, each with its symbol and its factor."""
_DEPTH = 8


def measure_value(value: Parameter) -> float | None:
    """The number inside a measure parameter, typed or bare; None when there is none."""
    if isinstance(value, Typed) and len(value.parameters) == 1:
        value = value.parameters[0]
    if isinstance(value, bool) or not isinstance(value, int | float):
        return None
    return float(value)


def _si_factor(record: Record) -> float | None:
    parameters = record.parts.get("SI_UNIT")
    if parameters is None or len(parameters) < 2:
        return None
    prefix, name = parameters[-2], parameters[-1]
    _, scale = SI_PREFIXES.get(prefix.name, ("", 1.0)) if isinstance(prefix, Enumeration) else ("", 1.0)
    base = name.name if isinstance(name, Enumeration) else ""
    # The model's units: millimetre and kilogram.
    return scale * {"METRE": 1000.0, "GRAM": 1e-3}.get(base, 1.0)


def _conversion(records: Records, record: Record, depth: int) -> float | None:
    parameters = record.parts.get("CONVERSION_BASED_UNIT")
    if parameters is None or depth > _DEPTH:
        return None
    factor = parameters[-1]
    measure = records.get(factor.number) if isinstance(factor, InstanceReference) else None
    if measure is None:
        return None
    for part in measure.parts.values():
        for index, item in enumerate(part):
            value = measure_value(item)
            if value is not None and index + 1 < len(part):
                base = part[index + 1]
                if isinstance(base, InstanceReference):
                    below = unit_factor(records, base.number, depth + 1)
                    return value * below if below is not None else None
    return None


def unit_factor(records: Records, number: int, depth: int = 0) -> float | None:
    """Size of a unit in the model's units (mm, kg, rad and their products); None when unknown."""
    record = records.get(number)
    if record is None or depth > _DEPTH:
        return None
    if "DERIVED_UNIT" in record.parts:
        total = 1.0
        elements = record.parts["DERIVED_UNIT"][0]
        for element in elements if isinstance(elements, tuple) else ():
            inner = records.get(element.number) if isinstance(element, InstanceReference) else None
            exponent = measure_value(inner.parameters[1]) if inner else None
            base = unit_factor(records, inner.ref(0), depth + 1) if inner else None
            if exponent is None or base is None:
                return None
            total *= base**exponent
        return total
    conversion = _conversion(records, record, depth)
    return conversion if conversion is not None else _si_factor(record)


def _unit_in(records: Records, context: Record, kind: str) -> Record | None:
    units = context.parts.get("GLOBAL_UNIT_ASSIGNED_CONTEXT", ((),))[-1]
    for unit in units if isinstance(units, tuple) else ():
        record = records.get(unit.number) if isinstance(unit, InstanceReference) else None
        if record is not None and kind in record.parts:
            return record
    return None


def context_unit(records: Records, number: int) -> float | None:
    """Millimetres in the length unit of a representation context; None when it has none."""
    context = records.get(number)
    unit = _unit_in(records, context, "LENGTH_UNIT") if context else None
    return unit_factor(records, unit.number) if unit else None


def length_units(records: Records) -> Counter[LengthUnit]:
    """The length units of the file's contexts with how often each is used."""
    units: Counter[LengthUnit] = Counter()
    for context in records.of("GLOBAL_UNIT_ASSIGNED_CONTEXT"):
        unit = _unit_in(records, context, "LENGTH_UNIT")
        size = unit_factor(records, unit.number) if unit else None
        if unit is None or size is None:
            continue
        name = unit.parts.get("CONVERSION_BASED_UNIT", ("",))[-2:]
        text = name[0] if name and isinstance(name[0], str) else ""
        units[MILLIMETRE if size == 1.0 else unit_of_size(size, text)] += 1
    return units


def angle_unit(records: Records) -> str:
    """The plane angle unit of the file: radian, degree or its own name."""
    for context in records.of("GLOBAL_UNIT_ASSIGNED_CONTEXT"):
        unit = _unit_in(records, context, "PLANE_ANGLE_UNIT")
        if unit is not None and "CONVERSION_BASED_UNIT" in unit.parts:
            name = unit.parts["CONVERSION_BASED_UNIT"][-2]
            return name.lower() if isinstance(name, str) else "radian"
    return "radian"


def angle_factor(records: Records) -> float:
    """Radians in the plane angle unit of the file, 1 when it names none."""
    for context in records.of("GLOBAL_UNIT_ASSIGNED_CONTEXT"):
        unit = _unit_in(records, context, "PLANE_ANGLE_UNIT")
        factor = unit_factor(records, unit.number) if unit else None
        if factor is not None:
            return factor
    return 1.0
