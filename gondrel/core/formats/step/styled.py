"""Colours of single items from the records of a STEP file.

Source: ISO 10303-46 (styled_item, presentation_style_assignment, colour_rgb).
"""

from __future__ import annotations

from gondrel.core.formats.step.records import Records
from gondrel.core.formats.step.tokens import Parameter, Reference
from gondrel.core.formats.step.units import measure_value
from gondrel.core.model.body import Rgba

__all__ = ["styled_colours"]

_DEEPEST = 12


def styled_colours(records: Records) -> dict[int, Rgba]:
    """The first colour of the style of every item that has one, by the item's number."""
    found: dict[int, Rgba] = {}
    for item in records.of("STYLED_ITEM", "OVER_RIDING_STYLED_ITEM"):
        colour = next((c for n in item.refs(1) if (c := _colour(records, n, 0)) is not None), None)
        if colour is not None and item.ref(2):
            found.setdefault(item.ref(2), colour)
    return found


def _colour(records: Records, number: int, depth: int) -> Rgba | None:
    record = records.get(number)
    if record is None or depth > _DEEPEST:
        return None
    if record.keyword == "COLOUR_RGB":
        values = [measure_value(p) for p in record.parameters[1:4]]
        if len(values) == 3 and None not in values:
            red, green, blue = (float(v) for v in values if v is not None)
            return Rgba(round(red, 6), round(green, 6), round(blue, 6))
        return None
    for parameters in record.parts.values():
        for inner in _references(parameters):
            found = _colour(records, inner, depth + 1)
            if found is not None:
                return found
    return None


def _references(value: Parameter) -> list[int]:
    if isinstance(value, Reference):
        return [value.number]
    return [n for part in value for n in _references(part)] if isinstance(value, tuple) else []
