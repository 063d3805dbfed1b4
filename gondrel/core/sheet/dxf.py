"""Outlines as a DXF file, through ezdxf."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Sequence
from typing import Any

from anyascii import anyascii

from gondrel.core.errors import UsageError
from gondrel.core.model.outline import (
    Arc,
    Curve,
    FlatEllipse,
    FlatLine,
    LineStyle,
    PartOutline,
    Polyline,
    Spline,
    sampled,
)

__all__ = ["VERSIONS", "to_dxf"]

VERSIONS = ("R2010", "R12")
_UNITS = {"mm": 4, "inch": 1, "cm": 5, "m": 6}
_FACTORS = {"mm": 1.0, "inch": 1 / 25.4, "cm": 0.1, "m": 0.001}
_FORBIDDEN = re.compile(r'[<>/\\":;?*|=\x60,\x00-\x1f]')
_R12_CHORD = 0.01
_NOT_OLD = re.compile(r"[^A-Z0-9$_-]")
_LONGEST_OLD = 31
_WEIGHTS = {LineStyle.WIDE: 35, LineStyle.NARROW: 18, LineStyle.DASHED: 18, LineStyle.CHAIN: 18}
_DASHES = [3.75, 3.0, -0.75]
_CHAIN = [7.625, 6.0, -0.75, 0.125, -0.75]


def to_dxf(outlines: Sequence[PartOutline], *, version: str = "R2010", unit: str = "mm") -> bytes:
    """A DXF file: one layer for each part, and one for its hatching.

    Curves stay exact; R12 knows neither ellipses nor splines, which become polylines within 0.01 mm there.

    Raises:
        UsageError: when the version or unit is none.

    Source: DXF reference; $INSUNITS 1 inch, 4 mm, 5 cm, 6 m.
    """
    import ezdxf
    from ezdxf.colors import rgb2int

    if version not in VERSIONS or unit not in _UNITS:
        raise UsageError(f"no DXF is written as {version} in {unit}", hint=", ".join((*VERSIONS, *_UNITS)))
    drawing: Any = ezdxf.new(version)
    drawing.header["$INSUNITS"] = _UNITS[unit]
    space, factor = drawing.modelspace(), _FACTORS[unit]
    names = _Names(version == "R12")
    for outline in outlines:
        layer, hatching = names.of(outline.layer), names.of(f"{outline.layer} hatching")
        for name in (layer, hatching) if outline.hatching else (layer,):
            if name not in drawing.layers:
                made = drawing.layers.add(name, linetype=_line_type(drawing, outline.style))
                if version != "R12":
                    made.dxf.true_color = rgb2int(_rgb(outline.colour))
                    made.dxf.lineweight = _WEIGHTS[outline.style]
        for text, start, height in outline.texts:
            place = (start[0] * factor, start[1] * factor)
            space.add_text(text, height=height * factor, dxfattribs={"layer": layer, "insert": place})
        for curve in outline.curves:
            _add(space, curve, {"layer": layer}, factor, version == "R12")
        for start, end in outline.hatching:
            ends = [(x * factor, y * factor) for x, y in (start, end)]
            space.add_line(*ends, dxfattribs={"layer": hatching})
    stream = io.StringIO()
    drawing.write(stream)
    data: bytes = drawing.encode(stream.getvalue())
    return data


def _add(space: Any, curve: Curve, attributes: dict[str, str], k: float, is_old: bool) -> None:
    if isinstance(curve, FlatLine):
        (a, b), (c, d) = curve.start, curve.end
        space.add_line((a * k, b * k), (c * k, d * k), dxfattribs=attributes)
    elif isinstance(curve, Polyline):
        points = [(x * k, y * k) for x, y in curve.points]
        (space.add_polyline2d if is_old else space.add_lwpolyline)(points, dxfattribs=attributes)
    elif isinstance(curve, Arc):
        _add_arc(space, curve, attributes, k)
    elif is_old:
        space.add_polyline2d(
            [tuple(p) for p in (sampled(curve, _R12_CHORD) * k).tolist()], dxfattribs=attributes
        )
    elif isinstance(curve, FlatEllipse):
        (x, y), (a, b) = curve.centre, curve.major
        space.add_ellipse(
            (x * k, y * k), (a * k, b * k), curve.ratio, curve.start, curve.end, dxfattribs=attributes
        )
    else:
        _add_spline(space, curve, attributes, k)


def _add_arc(space: Any, arc: Arc, attributes: dict[str, str], k: float) -> None:
    centre, radius = (arc.centre[0] * k, arc.centre[1] * k), arc.radius * k
    if arc.end - arc.start >= 2 * math.pi - 1e-9:
        space.add_circle(centre, radius, dxfattribs=attributes)
    else:
        ends = math.degrees(arc.start), math.degrees(arc.end)
        space.add_arc(centre, radius, *ends, dxfattribs=attributes)


def _add_spline(space: Any, spline: Spline, attributes: dict[str, str], k: float) -> None:
    made = space.add_spline(degree=spline.degree, dxfattribs=attributes)
    made.control_points = [(x * k, y * k, 0.0) for x, y in spline.poles]
    made.knots = list(spline.knots)
    if spline.weights:
        made.weights = list(spline.weights)


class _Names:
    """Layer names that DXF takes: without the signs that it forbids, at most 255; those of R12 are of
    capitals, digits, $, - and _, at most 31, and stay different.

    Source: DXF reference, symbol table names; the limit of R12 is common practice, from memory.
    """

    def __init__(self, is_old: bool) -> None:
        self._is_old = is_old
        self._given: dict[str, str] = {}

    def of(self, name: str) -> str:
        if name not in self._given:
            made = _FORBIDDEN.sub("_", name).strip()[:240] or "part"
            if self._is_old:
                made = _NOT_OLD.sub("_", anyascii(made).upper())[:_LONGEST_OLD] or "PART"
                taken, plain, count = set(self._given.values()), made, 1
                while made in taken:
                    count += 1
                    made = f"{plain[: _LONGEST_OLD - 1 - len(str(count))]}_{count}"
            self._given[name] = made
        return self._given[name]


def _line_type(drawing: Any, style: LineStyle) -> str:
    """The name of a line type, made where it is not there. Lengths in mm. Source: ISO 128-20, dashes 12 d,
    gaps 3 d, for a line of 0.25 mm."""
    pattern = {LineStyle.DASHED: _DASHES, LineStyle.CHAIN: _CHAIN}.get(style)
    if pattern is None:
        return "CONTINUOUS"
    name = style.upper()
    if name not in drawing.linetypes:
        drawing.linetypes.add(name, pattern, description=f"{style} line")
    return name


def _rgb(colour: str) -> tuple[int, int, int]:
    digits = colour.lstrip("#")
    return int(digits[:2], 16), int(digits[2:4], 16), int(digits[4:6], 16)
