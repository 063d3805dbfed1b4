"""Outlines as an SVG file, in true size."""

from __future__ import annotations

import math
from collections.abc import Sequence
from html import escape

from gondrel.core.model.outline import (
    Arc,
    Curve,
    FlatEllipse,
    FlatLine,
    LineStyle,
    PartOutline,
    outline_box,
    sampled,
)

__all__ = ["svg_groups", "to_svg"]

_MARGIN, _PEN, _THIN = 5.0, 0.35, 0.18
_CHORD = 0.002
_DASHES = {LineStyle.DASHED: (3.0, 0.75), LineStyle.CHAIN: (6.0, 0.75, 0.125, 0.75)}


def to_svg(outlines: Sequence[PartOutline], *, title: str = "") -> bytes:
    """An SVG file whose unit is the millimetre: one group for each part.

    Lines, circles and ellipses stay exact; splines, which SVG lacks, become polylines within 0.002 mm.

    Source: SVG 1.1, path data; line widths 0.35 and 0.18 mm as of ISO 128-24, from memory.
    """
    (left, low), (right, high) = outline_box(tuple(outlines))
    left, low, right, high = left - _MARGIN, low - _MARGIN, right + _MARGIN, high + _MARGIN
    width, height = right - left, high - low
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.4f}mm" height="{height:.4f}mm" '
        f'viewBox="{left:.6f} {-high:.6f} {width:.6f} {height:.6f}">\n'
        + (f"<title>{escape(title)}</title>\n" if title else "")
        + svg_groups(outlines)
        + "\n</svg>"
    ).encode()


def svg_groups(outlines: Sequence[PartOutline], *, scale: float = 1.0) -> str:
    """The groups of outlines, for an SVG whose unit is the millimetre.

    Args:
        scale: of the drawing; lines are as wide, dashes as long on the sheet whatever it is.
    """
    parts = []
    for outline in outlines:
        parts.append(f'<g fill="none" stroke-linecap="round"><title>{escape(outline.layer)}</title>')
        if outline.hatching:
            lines = "".join(f"M{_at(start)}L{_at(end)}" for start, end in outline.hatching)
            parts.append(
                f'<path d="{lines}" stroke="{outline.colour}" stroke-width="{_THIN / scale:.6g}"/>'
            )
        if path := "".join(_path(curve) for curve in outline.curves):
            wide = _PEN if outline.style is LineStyle.WIDE else _THIN
            dashes = " ".join(f"{dash / scale:.6g}" for dash in _DASHES.get(outline.style, ()))
            dashed = f' stroke-dasharray="{dashes}"' if dashes else ""
            parts.append(f'<path d="{path}" stroke="#1F2A33" stroke-width="{wide / scale:.6g}"{dashed}/>')
        for text, (x, y), size in outline.texts:
            parts.append(
                f'<text x="{x:.6g}" y="{-y:.6g}" font-size="{size:.6g}" font-family="sans-serif" '
                f'fill="#1F2A33">{escape(text)}</text>'
            )
        parts.append("</g>")
    return "\n".join(parts)


def _at(point: Sequence[float]) -> str:
    return f"{point[0]:.9g} {-point[1]:.9g}"


def _path(curve: Curve) -> str:
    """Path data of a curve; the sheet's y points up, that of SVG down."""
    if isinstance(curve, FlatLine):
        return f"M{_at(curve.start)}L{_at(curve.end)}"
    if isinstance(curve, Arc | FlatEllipse):
        return _round(curve)
    points = sampled(curve, _CHORD)
    return "M" + "L".join(_at(point) for point in points.tolist())


def _round(curve: Arc | FlatEllipse) -> str:
    """Two stretches, since one of a whole turn would end where it starts."""
    if isinstance(curve, Arc):
        wide, ratio = (curve.radius, 0.0), 1.0
    else:
        wide, ratio = curve.major, curve.ratio
    reach = math.hypot(*wide)
    turn = -math.degrees(math.atan2(wide[1], wide[0]))
    data = ""
    for number, share in enumerate((0.0, 0.5, 1.0)):
        t = curve.start + share * (curve.end - curve.start)
        cosine, sine = math.cos(t), math.sin(t)
        x = curve.centre[0] + cosine * wide[0] - sine * ratio * wide[1]
        y = curve.centre[1] + cosine * wide[1] + sine * ratio * wide[0]
        large = int((curve.end - curve.start) / 2 > math.pi)
        lead = f"A{reach:.9g} {reach * ratio:.9g} {turn:.9g} {large} 0 " if number else "M"
        data += lead + _at((x, y))
    return data
