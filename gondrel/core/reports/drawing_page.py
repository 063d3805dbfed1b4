"""A page with views of a model, its title block, parts list and figures, in true size."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from html import escape

from gondrel.core.errors import UsageError
from gondrel.core.model.outline import PartOutline, outline_box
from gondrel.core.sheet.svg import svg_groups

__all__ = ["SHEETS", "DrawingPage", "page_html", "page_svg", "scale_for", "scale_text"]

SHEETS = {"A4": (297, 210), "A3": (420, 297), "A2": (594, 420), "A1": (841, 594), "A0": (1189, 841)}
"""Width and height, mm. Source: ISO 216; laid across as ISO 5457 has A3 and larger."""

_SCALES = (1, 2, 5)
_FILING, _MARGIN = 20.0, 10.0
"""Free edges of a sheet, mm. Source: ISO 5457."""
_SIDE = 104.0
_ROW, _SMALL, _TEXT = 5.2, 2.2, 2.9
_INK, _QUIET, _LINE = "#1F2A33", "#5B666E", "#9AA3A8"


@dataclass(frozen=True, slots=True)
class DrawingPage:
    """What a page shows.

    Args:
        outlines: the views in their places, mm.
        title, fields: of the title block; parts: rows of the parts list, with its header first.
        figures: rows of a second table, with its header first.
    """

    outlines: Sequence[PartOutline]
    title: str
    fields: Sequence[tuple[str, str]] = ()
    parts: Sequence[Sequence[str]] = ()
    figures: Sequence[Sequence[str]] = ()
    projection: str = "first"
    sheet: str = "A3"
    remarks: Sequence[str] = field(default=())


def scale_for(width: float, height: float, room: tuple[float, float]) -> float:
    """The largest usual scale at which something fits. Source: ISO 5455: 1, 2 and 5 times powers of ten."""
    scales = [n * 10.0**power for power in range(-6, 7) for n in _SCALES]
    scales = sorted({round(s, 9) for s in scales} | {round(1 / s, 12) for s in scales})
    fitting = [s for s in scales if width * s <= room[0] and height * s <= room[1]]
    return fitting[-1] if fitting else scales[0]


def scale_text(scale: float) -> str:
    """A scale as drawings have it: 1:5, 2:1."""
    return f"{scale:g}:1" if scale >= 1 else f"1:{1 / scale:g}"


def page_svg(page: DrawingPage) -> bytes:
    """The page as SVG. Raises UsageError for an unknown sheet."""
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{_svg(page)}'.encode()


def page_html(page: DrawingPage) -> str:
    """The page as HTML of one sheet, to be printed. Raises UsageError for an unknown sheet."""
    width, height = _size(page)
    style = (
        f"@page {{ size: {width}mm {height}mm; margin: 0 }} body {{ margin: 0 }} svg {{ display: block }}"
    )
    return (
        f"<!DOCTYPE html><html><head><meta charset='utf-8'><title>{escape(page.title)}</title>"
        f"<style>{style}</style></head><body>{_svg(page)}</body></html>"
    )


def _size(page: DrawingPage) -> tuple[int, int]:
    if page.sheet not in SHEETS:
        raise UsageError(f"unknown sheet {page.sheet!r}", hint=f"one of {', '.join(SHEETS)}")
    return SHEETS[page.sheet]


def _svg(page: DrawingPage) -> str:
    width, height = _size(page)
    left, top, right, bottom = _FILING, _MARGIN, width - _MARGIN, height - _MARGIN
    side = right - _SIDE
    room = side - left - 2 * _MARGIN, bottom - top - 2 * _MARGIN
    (low_x, low_y), (high_x, high_y) = outline_box(tuple(page.outlines))
    scale = scale_for(high_x - low_x, high_y - low_y, room)
    middle = (left + side) / 2, (top + bottom) / 2
    turn = (
        f"translate({middle[0]:.4f} {middle[1]:.4f}) scale({scale:.9g}) "
        f"translate({-(low_x + high_x) / 2:.6f} {(low_y + high_y) / 2:.6f})"
    )
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" '
        f'viewBox="0 0 {width} {height}" font-family="Inter, sans-serif">',
        f"<title>{escape(page.title)}</title>",
        _box(left, top, right - left, bottom - top, 0.5),
        f'<g transform="{turn}">{svg_groups(page.outlines, scale=scale)}</g>',
        _stroke(side, top, side, bottom, 0.35),
    ]
    block = _title_block(page, scale, side, right, bottom)
    parts += block[0]
    at = top + 3.0
    for title, rows in (("Parts", page.parts), ("Carriage and figures", page.figures)):
        if len(rows) > 1:
            share = block[1] if title != "Parts" or len(page.figures) < 2 else (top + block[1]) / 2
            made, at = _table(title, rows, (side + 3.0, right - 3.0), at, share - 4.0)
            parts += made
    return "\n".join([*parts, "</svg>"])


def _title_block(
    page: DrawingPage, scale: float, left: float, right: float, bottom: float
) -> tuple[list[str], float]:
    """What stands at the lower right, and where it begins. Source: data fields as of ISO 7200."""
    angle = f"{page.projection} angle"
    fields = [*page.fields, ("Scale", scale_text(scale)), ("Projection", angle), ("Sheet", page.sheet)]
    rows = -(-len(fields) // 2)
    remarks = [part for remark in page.remarks for part in _wrapped(remark, right - left - 6.0, _SMALL)]
    top = bottom - 11.0 - 7.2 * rows - 3.4 * len(remarks)
    made = [_stroke(left, top, right, top, 0.5)]
    made.append(_text(left + 3.0, top + 7.0, _cut(page.title, right - left - 6.0, 4.4), 4.4, weight=600))
    middle = (left + right) / 2
    for place, (label, text) in enumerate(fields):
        x, y = (left if place % 2 == 0 else middle), top + 11.0 + 7.2 * (place // 2)
        made.append(_stroke(left, y, right, y, 0.13) if place % 2 == 0 else "")
        made.append(_text(x + 3.0, y + 2.6, label, _SMALL, colour=_QUIET))
        made.append(_text(x + 3.0, y + 6.1, _cut(text, middle - left - 5.0, _TEXT), _TEXT))
    for place, remark in enumerate(remarks):
        made.append(_text(left + 3.0, bottom - 3.4 * (len(remarks) - place) + 1.8, remark, _SMALL))
    return made, top


def _table(
    title: str, rows: Sequence[Sequence[str]], span: tuple[float, float], top: float, bottom: float
) -> tuple[list[str], float]:
    """A table with its title, cut where the room ends with a word on what is left out; and its end."""
    left, right = span
    fit = max(int((bottom - top - 8.0) / _ROW), 1)
    shown = list(rows) if len(rows) <= fit else [*rows[: fit - 1]]
    widths = [max(_wide(str(row[n]), _TEXT) for row in shown) + 2.5 for n in range(len(rows[0]))]
    over = sum(widths) - (right - left)
    widest = widths.index(max(widths))
    widths[widest] -= max(over, over if over > 0 else 0.0)
    made = [_text(left, top + 3.2, title, 3.2, weight=600)]
    y = top + 5.0
    for number, row in enumerate(shown):
        x = left
        for place, cell in enumerate(row):
            size, colour = (_SMALL, _QUIET) if number == 0 else (_TEXT, _INK)
            made.append(_text(x, y + 3.6, _cut(str(cell), widths[place] - 1.0, size), size, colour=colour))
            x += widths[place]
        made.append(_stroke(left, y + _ROW, right, y + _ROW, 0.13, _LINE))
        y += _ROW
    if len(shown) < len(rows):
        made.append(_text(left, y + 3.6, f"and {len(rows) - len(shown)} more", _SMALL, colour=_QUIET))
        y += _ROW
    return made, y + 5.0


def _wide(text: str, size: float) -> float:
    """About how wide a text is, mm: 0.56 of its height for each sign."""
    return 0.56 * size * len(text)


def _cut(text: str, room: float, size: float) -> str:
    most = max(int(room / (0.56 * size)), 2)
    return text if len(text) <= most else text[: most - 1] + "…"


def _wrapped(text: str, room: float, size: float) -> list[str]:
    lines: list[str] = []
    for word in text.split():
        if lines and _wide(f"{lines[-1]} {word}", size) <= room:
            lines[-1] += f" {word}"
        else:
            lines.append(word)
    return lines


def _text(x: float, y: float, text: str, size: float, *, colour: str = _INK, weight: int = 400) -> str:
    heavy = f' font-weight="{weight}"' if weight != 400 else ""
    return f'<text x="{x:.3f}" y="{y:.3f}" font-size="{size}" fill="{colour}"{heavy}>{escape(text)}</text>'


def _stroke(x: float, y: float, to_x: float, to_y: float, width: float, colour: str = _INK) -> str:
    return f'<path d="M{x:.3f} {y:.3f}L{to_x:.3f} {to_y:.3f}" stroke="{colour}" stroke-width="{width}"/>'


def _box(x: float, y: float, width: float, height: float, pen: float) -> str:
    return (
        f'<rect x="{x}" y="{y}" width="{width}" height="{height}" fill="none" stroke="{_INK}" '
        f'stroke-width="{pen}"/>'
    )
