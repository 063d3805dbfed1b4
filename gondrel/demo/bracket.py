"""The demo's drawing: a bracket for the pawl, as the drawing office sends it for cutting out."""

from __future__ import annotations

import io
import math
from typing import Any

__all__ = ["bracket_drawing"]

_QUARTER, _HALF = math.tan(math.pi / 8), 1.0
"""Bulges of a quarter and of half a circle."""

_OUTLINE = (
    (10, 0, 0), (130, 0, _QUARTER), (140, 10, 0), (140, 50, _QUARTER), (130, 60, 0), (75, 60, -_QUARTER),
    (65, 70, 0), (65, 100, _HALF), (25, 100, 0), (25, 70, -_QUARTER), (15, 60, 0), (10, 60, _QUARTER),
    (0, 50, 0), (0, 10, _QUARTER),
)  # fmt: skip
_BORES = ((15, 15, 4.5), (125, 15, 4.5), (125, 45, 4.5), (45, 100, 11))
_WINDOW = ((55, 25, 0), (95, 25, _HALF), (95, 37, 0), (55, 37, _HALF))


def bracket_drawing() -> bytes:
    """A DXF drawing in millimetres: outline, bores and a slot, centre lines, a dimension, a note."""
    import ezdxf

    document: Any = ezdxf.new("R2010", units=4, setup=True)
    for name, colour, line_type in (
        ("Outline", 5, "CONTINUOUS"), ("Bores", 1, "CONTINUOUS"), ("Axes", 3, "CENTER"),
        ("Notes", 8, "CONTINUOUS"),
    ):  # fmt: skip
        document.layers.add(name, color=colour, linetype=line_type)
    space = document.modelspace()
    space.add_lwpolyline(_OUTLINE, format="xyb", close=True, dxfattribs={"layer": "Outline"})
    space.add_lwpolyline(_WINDOW, format="xyb", close=True, dxfattribs={"layer": "Bores"})
    for x, y, radius in _BORES:
        space.add_circle((x, y), radius, dxfattribs={"layer": "Bores"})
    for start, end in (((45, 75), (45, 125)), ((20, 100), (70, 100))):
        space.add_line(start, end, dxfattribs={"layer": "Axes"})
    text = space.add_text("Pawl bracket PG-305, steel 8 mm", height=5, dxfattribs={"layer": "Notes"})
    text.set_placement((0, -14))
    stream = io.StringIO()
    document.write(stream)
    data: bytes = document.encode(stream.getvalue())
    return data
