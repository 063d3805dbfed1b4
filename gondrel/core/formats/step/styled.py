"""Colours and other looks of single items from the records of a STEP file.

Source: ISO 10303-46 (styled_item, presentation_style_assignment, surface_style_usage, colour_rgb,
pre_defined_colour and its names).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import Enumeration, InstanceReference, Typed, numbers_in
from gondrel.core.formats.step.units import measure_value
from gondrel.core.model.appearance import BACK, REFLECTANCE, Appearance, reflectance_text
from gondrel.core.model.body import Rgba

__all__ = [
    "STYLED_ITEMS", "StylePart", "is_null_style", "item_of", "parts_of_style", "same_colour",
    "styled_colours",
]  # fmt: skip

_DEEPEST = 12
STYLED_ITEMS = ("STYLED_ITEM", "OVER_RIDING_STYLED_ITEM", "CONTEXT_DEPENDENT_OVER_RIDING_STYLED_ITEM")
"""Keywords of what gives a style to an item."""

_SAME = 1.5 / 255
_NAMED = {
    "red": (1.0, 0.0, 0.0), "green": (0.0, 1.0, 0.0), "blue": (0.0, 0.0, 1.0), "yellow": (1.0, 1.0, 0.0),
    "magenta": (1.0, 0.0, 1.0), "cyan": (0.0, 1.0, 1.0), "black": (0.0, 0.0, 0.0), "white": (1.0, 1.0, 1.0),
}  # fmt: skip
_RENDERING = "SURFACE_STYLE_RENDERING_WITH_PROPERTIES"
_COLOURED = ("SURFACE_STYLE_FILL_AREA", "SURFACE_STYLE_RENDERING", _RENDERING)


@dataclass(frozen=True, slots=True)
class StylePart:
    """One look that a style gives.

    Args:
        colour: that of a colour, None for another look.
        numbers: the records that give it, from the assignment down to where the look hangs.
        context: number of what the style is given in, 0 when it is given everywhere.
        look: the look where it is not the colour itself.
    """

    colour: Rgba | None
    numbers: tuple[int, ...]
    context: int
    look: Appearance | None = None


def same_colour(one: Rgba, other: Rgba) -> bool:
    """Whether two colours are the same to the eye and to eight bits."""
    pairs = ((one.red, other.red), (one.green, other.green), (one.blue, other.blue))
    return all(abs(a - b) <= _SAME for a, b in pairs)


def item_of(styled: Record) -> tuple[list[int], int]:
    """The styles of a styled item of any kind, and what it styles."""
    return styled.refs(1), styled.ref(2)


def is_null_style(records: Records, styles: list[int]) -> bool:
    """Whether styles say nothing, so that an item has one only to hang something on."""
    for number in styles:
        assignment = records.get(number)
        listed = assignment.parameters[0] if assignment is not None and assignment.parameters else None
        if not isinstance(listed, tuple) or any(not isinstance(p, Typed | Enumeration) for p in listed):
            return False
    return bool(styles)


def styled_colours(records: Records) -> dict[int, Rgba]:
    """The first colour of the style of every item that has one, by the item's number."""
    colours: dict[int, Rgba] = {}
    for item in records.of("STYLED_ITEM", "OVER_RIDING_STYLED_ITEM"):
        parts = (part for part in parts_of_style(records, item.refs(1)) if not part.context)
        colour = next((part.colour for part in parts if part.colour is not None), None)
        if colour is not None and item.ref(2):
            colours.setdefault(item.ref(2), colour)
    return colours


def parts_of_style(records: Records, styles: list[int]) -> Iterator[StylePart]:
    """The looks that some styles give to surfaces, else to curves and points."""
    curves: list[StylePart] = []
    is_surface = False
    for style in styles:
        assignment = records.get(style)
        if assignment is None:
            continue
        is_local = assignment.keyword == "PRESENTATION_STYLE_BY_CONTEXT"
        context = assignment.ref(1) if is_local else 0
        usages = [usage for number in assignment.refs(0) if (usage := records.get(number)) is not None]
        is_sided = any(_side(usage) in ("POSITIVE", "BOTH") for usage in usages)
        for usage in usages:
            number = usage.number
            if usage.keyword != "SURFACE_STYLE_USAGE":
                if (colour := _colour(records, number, 0)) is not None:
                    curves.append(StylePart(colour, (style, number), context))
                continue
            side = records.get(usage.ref(1))
            alpha = _alpha(records, side)
            for element in side.refs(1) if side is not None else ():
                record = records.get(element)
                colour = _colour(records, element, 0) if record is not None else None
                if record is None or record.keyword not in _COLOURED or colour is None:
                    continue
                colour = replace(colour, alpha=alpha)
                is_surface = True
                above = (style, number, usage.ref(1), element)
                if is_sided and _side(usage) == "NEGATIVE":
                    yield StylePart(None, above, context, Appearance(BACK, colour.hex))
                    continue
                yield StylePart(colour, above, context)
                for reflectances, text in _reflectances(records, record):
                    yield StylePart(None, (*above, reflectances), context, Appearance(REFLECTANCE, text))
    if not is_surface:
        yield from curves


def _alpha(records: Records, side: Record | None) -> float:
    """How opaque a side is, by the transparency of its rendering."""
    for element in side.refs(1) if side is not None else ():
        rendering = records.get(element)
        if rendering is None or rendering.keyword != _RENDERING:
            continue
        for record in map(records.get, rendering.refs(2)):
            if record is not None and record.keyword == "SURFACE_STYLE_TRANSPARENT" and record.parameters:
                share = measure_value(record.parameters[0])
                return 1.0 if share is None else round(min(max(1.0 - share, 0.0), 1.0), 6)
    return 1.0


def _side(usage: Record) -> str:
    """Which side of a surface a usage is of: POSITIVE, NEGATIVE or BOTH; empty where it is of none."""
    side = usage.parameters[0] if usage.keyword == "SURFACE_STYLE_USAGE" and usage.parameters else None
    return side.name if isinstance(side, Enumeration) else ""


def _reflectances(records: Records, rendering: Record) -> Iterator[tuple[int, str]]:
    """Records of the reflectances that a rendering has, and what they say."""
    listed = rendering.refs(2) if rendering.keyword == _RENDERING else ()
    for number in listed:
        record = records.get(number)
        if record is None or not record.keyword.startswith("SURFACE_STYLE_REFLECTANCE_AMBIENT"):
            continue
        shares = [measure_value(p) for p in record.parameters[:4] if not isinstance(p, InstanceReference)]
        colour = _colour(records, record.ref(4), 0) if len(record.parameters) > 4 else None
        if shares and None not in shares:
            text = reflectance_text([s for s in shares if s is not None], colour.hex if colour else "")
            yield number, text


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
    if record.keyword in ("DRAUGHTING_PRE_DEFINED_COLOUR", "PRE_DEFINED_COLOUR"):
        named = _NAMED.get(record.text(0).lower())
        return Rgba(*named) if named is not None else None
    for parameters in record.parts.values():
        for inner in numbers_in(parameters):
            inner_colour = _colour(records, inner, depth + 1)
            if inner_colour is not None:
                return inner_colour
    return None
