"""Units of measures as symbols, and back as records.

A symbol is of terms with dots between, each an atom and a whole exponent: mm, kg.m-3, inch. A unit that
converts into another is [NAME=factor atom] where its name is none of those known here.
Source: ISO 10303-41 (si_unit, conversion_based_unit, derived_unit, dimensional_exponents); symbols and
prefixes from the SI brochure; inch, foot, pound and degree by their exact definitions.
"""

from __future__ import annotations

import math
import re

from gondrel.core.formats.step.compose import RecordComposer, ref
from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import Enumeration, InstanceReference, Parameter, Typed, encode_string
from gondrel.core.formats.step.units import SI_PREFIXES, measure_value

__all__ = ["can_write_unit", "is_si_unit", "unit_symbol", "write_unit"]

_SI = {
    "METRE": ("m", "LENGTH_UNIT"), "GRAM": ("g", "MASS_UNIT"), "SECOND": ("s", "TIME_UNIT"),
    "AMPERE": ("A", "ELECTRIC_CURRENT_UNIT"), "KELVIN": ("K", "THERMODYNAMIC_TEMPERATURE_UNIT"),
    "MOLE": ("mol", "AMOUNT_OF_SUBSTANCE_UNIT"), "CANDELA": ("cd", "LUMINOUS_INTENSITY_UNIT"),
    "RADIAN": ("rad", "PLANE_ANGLE_UNIT"), "STERADIAN": ("sr", "SOLID_ANGLE_UNIT"),
    "HERTZ": ("Hz", "FREQUENCY_UNIT"), "NEWTON": ("N", "FORCE_UNIT"), "PASCAL": ("Pa", "PRESSURE_UNIT"),
    "JOULE": ("J", "ENERGY_UNIT"), "WATT": ("W", "POWER_UNIT"), "COULOMB": ("C", "ELECTRIC_CHARGE_UNIT"),
    "VOLT": ("V", "ELECTRIC_POTENTIAL_UNIT"), "FARAD": ("F", "CAPACITANCE_UNIT"),
    "OHM": ("Ohm", "RESISTANCE_UNIT"), "SIEMENS": ("S", "CONDUCTANCE_UNIT"),
    "WEBER": ("Wb", "MAGNETIC_FLUX_UNIT"), "TESLA": ("T", "MAGNETIC_FLUX_DENSITY_UNIT"),
    "HENRY": ("H", "INDUCTANCE_UNIT"), "DEGREE_CELSIUS": ("degC", "THERMODYNAMIC_TEMPERATURE_UNIT"),
    "LUMEN": ("lm", "LUMINOUS_FLUX_UNIT"), "LUX": ("lx", "ILLUMINANCE_UNIT"),
    "BECQUEREL": ("Bq", "RADIOACTIVITY_UNIT"), "GRAY": ("Gy", "ABSORBED_DOSE_UNIT"),
    "SIEVERT": ("Sv", "DOSE_EQUIVALENT_UNIT"),
}  # fmt: skip
_SYMBOLS = {
    prefix + symbol: (word, name)
    for name, (symbol, _) in _SI.items()
    for word, (prefix, _) in (("", ("", 1.0)), *SI_PREFIXES.items())
}
_SYMBOL_OF = {words: symbol for symbol, words in _SYMBOLS.items()}
_CONVERSIONS = {
    "inch": ("INCH", 25.4, "mm"), "foot": ("FOOT", 304.8, "mm"), "yard": ("YARD", 914.4, "mm"),
    "deg": ("DEGREE", math.pi / 180.0, "rad"), "lb": ("POUND", 0.45359237, "kg"),
    "min": ("MINUTE", 60.0, "s"), "h": ("HOUR", 3600.0, "s"), "d": ("DAY", 86400.0, "s"),
}  # fmt: skip
_ONE = "1"
"""The symbol of a ratio's unit in a derived unit of no elements."""
_TERM = re.compile(r"(\[[^\]]*\]|[A-Za-z1]+)(-?\d+)?$")
_EXPONENTS = {
    "m": 0, "g": 1, "s": 2, "A": 3, "K": 4, "mol": 5, "cd": 6,
}  # fmt: skip
_SAME = 1e-12
_DEEPEST = 4


def is_si_unit(prefix: Parameter, name: Parameter) -> bool:
    """Whether the two are a prefix, or none, and a name of ISO 10303-41's si_prefix and si_unit_name."""
    return _si_symbol(prefix, name) is not None


def _si_symbol(prefix: Parameter, name: Parameter) -> str | None:
    if not isinstance(name, Enumeration) or not isinstance(prefix, Enumeration | None):
        return None
    return _SYMBOL_OF.get((prefix.name if prefix is not None else "", name.name))


def unit_symbol(records: Records, number: int, depth: int = 0) -> str | None:
    """The symbol of a unit; None where it can't be told in symbols."""
    record = records.get(number)
    if record is None or depth > _DEEPEST:
        return None
    if "DERIVED_UNIT" in record.parts:
        elements = record.parts["DERIVED_UNIT"]
        listed = elements[0] if elements and isinstance(elements[0], tuple) else ()
        terms = [
            _term(records, each.number, depth) for each in listed if isinstance(each, InstanceReference)
        ]
        return None if None in terms or not terms else ".".join(t for t in terms if t is not None)
    if "CONVERSION_BASED_UNIT" in record.parts:
        return _converted(records, record, depth)
    said = record.parts.get("SI_UNIT", ())
    return _si_symbol(*said[-2:]) if len(said) > 1 else None


def _term(records: Records, number: int, depth: int) -> str | None:
    element = records.get(number)
    symbol = unit_symbol(records, element.ref(0), depth + 1) if element is not None else None
    exponent = measure_value(element.parameters[1]) if element is not None and symbol else None
    if symbol is None or exponent is None or not exponent.is_integer() or "." in symbol:
        return None
    return symbol if exponent == 1 else f"{symbol}{int(exponent)}"


def _converted(records: Records, record: Record, depth: int) -> str | None:
    said = record.parts["CONVERSION_BASED_UNIT"]
    name, target = said[-2] if len(said) > 1 else None, said[-1]
    measure = records.get(target.number) if isinstance(target, InstanceReference) else None
    for part in measure.parts.values() if measure is not None else ():
        if len(part) >= 2 and isinstance(part[-1], InstanceReference):
            factor, base = measure_value(part[-2]), unit_symbol(records, part[-1].number, depth + 1)
            if factor is None or base is None or not isinstance(name, str) or set("[]=. ") & set(name):
                return None
            for symbol, (_, size, into) in _CONVERSIONS.items():
                if name.upper() == _CONVERSIONS[symbol][0] and _alike(factor, base, size, into):
                    return symbol
            return f"[{name}={factor!r} {base}]"
    return None


def _alike(factor: float, base: str, size: float, into: str) -> bool:
    scale = {"m": 1000.0, "cm": 10.0, "g": 1e-3}
    pairs = [(factor, base), (size, into)]
    one, other = (value * scale.get(unit, 1.0) for value, unit in pairs)
    lengths, masses = {"m", "cm", "mm"}, {"g", "kg"}
    same = base == into or {base, into} <= lengths or {base, into} <= masses
    return same and abs(one - other) <= 1e-6 * abs(other)


def can_write_unit(symbol: str) -> bool:
    """Whether a symbol is one that can be written as records."""
    return not symbol or all(_atom_of(term) is not None for term in _terms(symbol))


def _terms(symbol: str) -> list[str]:
    return re.findall(r"\[[^\]]*\][-\d]*|[^.\[\]]+", symbol)


def _atom_of(term: str) -> tuple[str, int] | None:
    match = _TERM.match(term)
    if match is None:
        return None
    atom, exponent = match[1], int(match[2] or 1)
    if atom.startswith("["):
        parts = re.match(r"\[([^=\]]+)=([^ \]]+) ([^\]]+)\]$", atom)
        return (atom, exponent) if parts is not None and parts[3] in _SYMBOLS else None
    return (atom, exponent) if atom in _SYMBOLS or atom in _CONVERSIONS else None


def write_unit(composer: RecordComposer, symbol: str) -> int:
    """The record of a unit, shared. Raises ValueError for a symbol that is none."""
    terms = [_atom_of(term) for term in _terms(symbol)]
    if not terms or None in terms:
        raise ValueError(f"{symbol!r} is not a unit")
    atoms = [each for each in terms if each is not None]
    if len(atoms) == 1 and atoms[0][1] == 1:
        return _atom(composer, atoms[0][0])
    elements = tuple(
        ref(composer.share("DERIVED_UNIT_ELEMENT", ref(_atom(composer, atom)), float(exponent)))
        for atom, exponent in atoms
    )
    return composer.share("DERIVED_UNIT", elements)


def _atom(composer: RecordComposer, atom: str) -> int:
    if atom in _SYMBOLS:
        prefix, name = _SYMBOLS[atom]
        kind = _SI[name][1]
        said = f"SI_UNIT({f'.{prefix}.' if prefix else '$'},.{name}.)"
        parts = sorted((f"{kind}()", "NAMED_UNIT(*)", said))
        return composer.share_text(f"({' '.join(parts)})")
    if atom in _CONVERSIONS:
        name, factor, base = _CONVERSIONS[atom]
    else:
        match = re.match(r"\[([^=]+)=([^ ]+) ([^\]]+)\]$", atom)
        assert match is not None
        name, factor, base = match[1], float(match[2]), match[3]
    kind = _SI[_SYMBOLS[base][1]][1]
    measure = kind.removesuffix("_UNIT") + "_MEASURE"
    below = _atom(composer, base)
    size = composer.share("MEASURE_WITH_UNIT", Typed(measure, (factor,)), ref(below))
    powers = [0.0] * 7
    bare = _SI[_SYMBOLS[base][1]][0]
    if bare in _EXPONENTS:
        powers[_EXPONENTS[bare]] = 1.0
    exponents = composer.share("DIMENSIONAL_EXPONENTS", *powers)
    parts = sorted((f"CONVERSION_BASED_UNIT({encode_string(name)},#{size})", f"{kind}()",
                    f"NAMED_UNIT(#{exponents})"))  # fmt: skip
    return composer.share_text(f"({' '.join(parts)})")
