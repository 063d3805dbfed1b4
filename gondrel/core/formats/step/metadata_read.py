"""One item of a representation as a property that users define.

Source: ISO 10303-43 (representation_item; date_representation_item, a complex record with calendar_date),
-45 and -41 (measures with units), from memory; names of generic properties are common practice of
the trade, from memory.
"""

from __future__ import annotations

from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import Enumeration, InstanceReference, Typed
from gondrel.core.formats.step.unit_symbols import unit_symbol
from gondrel.core.formats.step.units import measure_value
from gondrel.core.model.metadata import Metadatum, Value

__all__ = ["DATE", "has_unit", "metadatum_of"]

DATE = "date"
"""What a value measures that is a day: a text of year-month-day."""

_GENERIC_NAMES = ("user defined attribute", "user defined property", "")
_BARE_MEASURES = ("count", "numeric", "parameter value")
"""Measures that say no more than that the value is a number."""


def metadatum_of(records: Records, name: str, item: Record, siblings: int) -> Metadatum | None:
    """A user-defined attribute from one representation item; None for a kind we do not read."""
    own_key = item.parts.get("REPRESENTATION_ITEM", (None,))[0] or (
        item.parameters[0] if item.parameters else None
    )
    item_name = own_key if isinstance(own_key, str) else ""
    generic = name.lower() in _GENERIC_NAMES or siblings > 1
    key = item_name if (generic and item_name) else name
    if date := _date(item):
        return Metadatum(key, date, DATE) if key else None
    value = _item_value(item)
    if value is None or not key:
        return None
    said, unit = _measured(item)
    if not said or isinstance(value, str | bool):
        return Metadatum(key, value)
    return Metadatum(key, value, said, (unit_symbol(records, unit) or "") if unit else "")


def _date(item: Record) -> str:
    """The date that an item is, as year-month-day; empty for what is none."""
    if "DATE_REPRESENTATION_ITEM" not in item.parts:
        return ""
    said = (*item.parts.get("DATE", ()), *item.parts.get("CALENDAR_DATE", ()))
    numbers = [n for n in said if isinstance(n, int)]
    if len(numbers) != 3:
        return ""
    year, day, month = numbers
    return f"{year:04}-{month:02}-{day:02}"


def _measured(item: Record) -> tuple[str, int]:
    """What a measure is of, in words, and the number of its unit; empty and 0 where it is none."""
    own = item.parts.get("MEASURE_WITH_UNIT", item.parameters[1:])
    if not own and "VALUE_REPRESENTATION_ITEM" in item.parts:
        own = item.parts["VALUE_REPRESENTATION_ITEM"]
    typed = own[0] if own and isinstance(own[0], Typed) else None
    unit = next((p.number for p in own if isinstance(p, InstanceReference)), 0)
    said = typed.name.removesuffix("_MEASURE").replace("_", " ").lower() if typed is not None else ""
    return ("" if said in _BARE_MEASURES and not unit else said), unit


def has_unit(item: Record) -> bool:
    """Whether the value of a representation item is a measure with a unit."""
    return _measured(item)[1] != 0


def _item_value(item: Record) -> Value | None:
    for keyword, parameters in item.parts.items():
        if keyword == "MEASURE_REPRESENTATION_ITEM" and not parameters:
            parameters = ("", *item.parts.get("MEASURE_WITH_UNIT", ()))[:2]
        last = parameters[1] if len(parameters) > 1 else (parameters[0] if parameters else None)
        if keyword == "DESCRIPTIVE_REPRESENTATION_ITEM":
            return last if isinstance(last, str) else ""
        if keyword in ("INTEGER_REPRESENTATION_ITEM", "INT_LITERAL"):
            number = measure_value(last)
            return None if number is None else int(number)
        if keyword in ("REAL_REPRESENTATION_ITEM", "REAL_LITERAL"):
            return measure_value(last)
        if keyword in ("BOOLEAN_REPRESENTATION_ITEM", "BOOLEAN_LITERAL"):
            return last.name in ("T", "TRUE") if isinstance(last, Enumeration) else None
        if keyword in ("MEASURE_REPRESENTATION_ITEM", "VALUE_REPRESENTATION_ITEM"):
            number = measure_value(last)
            whole = isinstance(last, Typed) and last.name == "COUNT_MEASURE"
            return int(number) if number is not None and whole else number
    return None
