"""Views on a sheet: where each stands, and on which layers and in which lines it is drawn."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

from gondrel.core.model.drawing import DrawnView
from gondrel.core.model.outline import Curve, LineStyle, PartOutline, outline_box, shifted

__all__ = ["LAYERS", "PROJECTIONS", "layered", "placed_views"]

LAYERS = ("both", "parts", "kinds")
PROJECTIONS = ("first", "third")

_GAP = 0.12
"""Between views, as a share of the larger side of the largest."""
_CELLS = {
    "front": (0, 0), "right": (-1, 0), "left": (1, 0), "back": (2, 0), "top": (0, -1), "bottom": (0, 1),
    "iso": (1, -1),
}  # fmt: skip
"""Columns and rows in the first angle projection of ISO 128-30, seen from the left at the right."""
_CAPTION = 0.03


def layered(view: DrawnView, layers: str = "both") -> tuple[PartOutline, ...]:
    """The lines of a view on layers by part, by kind of line, or by both.

    Args:
        layers: of LAYERS.
    """
    groups: defaultdict[tuple[str, str, LineStyle], list[Curve]] = defaultdict(list)
    for line in view.lines:
        kind = "hidden" if line.is_hidden else ("smooth" if line.role == "smooth" else "visible")
        style = {"hidden": LineStyle.DASHED, "smooth": LineStyle.NARROW}.get(kind, LineStyle.WIDE)
        part = view.parts[line.part]
        # what one line type can't tell, a layer of its own tells
        name = {"parts": part if kind == "visible" else f"{part} {kind}", "kinds": kind}.get(
            layers, f"{part} {kind}"
        )
        groups[name, view.colours[line.part] if layers != "kinds" else "#1F2A33", style].append(line.curve)
    made = [
        PartOutline(name, colour, tuple(curves), style=style)
        for (name, colour, style), curves in groups.items()
    ]
    cut = [replace(each, layer="cut" if layers == "kinds" else f"{each.layer} cut") for each in view.cut]
    return (*made, *cut)


def placed_views(
    drawn: Sequence[tuple[str, tuple[PartOutline, ...]]], projection: str = "first"
) -> tuple[PartOutline, ...]:
    """Views moved to their places on one sheet, each with its name where there are several.

    Args:
        drawn: names and outlines; a name that is none of the usual ones comes after all others, below.
        projection: first or third angle, ISO 128-30.
    """
    if len(drawn) < 2:
        return drawn[0][1] if drawn else ()
    turn = 1 if projection == "first" else -1
    cells, others = {}, 0
    for place, (name, _) in enumerate(drawn):
        if name in _CELLS:
            column, row = _CELLS[name]
            cells[place] = (column * (turn if name != "iso" else 1), row * (turn if name != "iso" else 1))
        else:
            cells[place] = (others, -2)
            others += 1
    boxes = [outline_box(outlines) for _, outlines in drawn]
    widths, heights = defaultdict[int, float](float), defaultdict[int, float](float)
    for place, ((left, low), (right, high)) in enumerate(boxes):
        column, row = cells[place]
        widths[column] = max(widths[column], right - left)
        heights[row] = max(heights[row], high - low)
    gap = _GAP * max([*widths.values(), *heights.values(), 1e-6])
    middles = _middles(widths, gap), _middles(heights, gap)
    made: list[PartOutline] = []
    for place, (name, outlines) in enumerate(drawn):
        (left, low), (right, high) = boxes[place]
        column, row = cells[place]
        x, y = middles[0][column] - (left + right) / 2, middles[1][row] - (low + high) / 2
        made += [shifted(outline, x, y) for outline in outlines]
        caption = (left + x, low + y - gap / 4), gap * _CAPTION * 8
        made.append(PartOutline("view names", "#1F2A33", (), texts=((name, *caption),)))
    return tuple(made)


def _middles(sizes: dict[int, float], gap: float) -> dict[int, float]:
    """Where the middle of each column or row lies, mm."""
    middles, at = {}, 0.0
    for number in sorted(sizes):
        middles[number] = at + sizes[number] / 2
        at += sizes[number] + gap
    return middles
