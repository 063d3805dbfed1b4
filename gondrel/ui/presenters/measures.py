"""What was measured, as rows of label and value."""

from __future__ import annotations

import math

from gondrel.core.model.measures import Apart, Measured, Size, Thickness
from gondrel.core.reports.figures import Figures

__all__ = ["apart_rows", "degrees", "dimension_text", "size_rows", "wall_rows"]

Rows = list[tuple[str, str]]
_FULL = 2 * math.pi - 1e-9


def size_rows(size: Size, show: Figures) -> Rows:
    """The measures of one thing."""
    rows: Rows = []
    if size.length is not None:
        rows.append(("length", show.length(size.length)))
    if size.radius is not None:
        if size.what == "torus":
            rows.append(("ring radius", show.length(size.radius)))
        elif size.what == "ellipse":
            rows.append(("wide radius", show.length(size.radius)))
        else:
            rows += [("diameter", show.length(2 * size.radius)), ("radius", show.length(size.radius))]
    if size.minor is not None:
        rows.append(("tube radius" if size.what == "torus" else "narrow radius", show.length(size.minor)))
    if size.angle is not None and not (size.what == "circle" and size.angle >= _FULL):
        rows.append(("half angle" if size.what == "cone" else "arc", degrees(size.angle)))
    if size.area is not None:
        rows.append(("area", show.area(size.area)))
    if size.volume is not None:
        rows.append(("volume", show.volume(size.volume)))
    if size.at is not None and size.what in ("point", "circle", "sphere", "body"):
        rows.append(("at" if size.what == "point" else "centre", show.point(*size.at)))
    return rows


def apart_rows(apart: Apart, show: Figures) -> Rows:
    """How two things stand to one another."""
    dx, dy, dz = apart.along
    rows = [("distance", show.length(apart.distance)), ("along x, y, z", show.point(dx, dy, dz))]
    if apart.angle is not None:
        rows.append(("angle", degrees(apart.angle)))
    return rows


def wall_rows(wall: Thickness, show: Figures) -> Rows:
    """The wall behind a place."""
    return [("wall here", show.length(wall.least) if wall.least is not None else "no other side")]


def dimension_text(measured: Measured, show: Figures) -> str:
    """What is written at the dimension in the picture."""
    if measured.apart is not None:
        return show.length(measured.apart.distance)
    size = measured.sizes[0]
    if size.radius is not None and size.what in ("cylinder", "circle", "sphere"):
        return f"\u2300 {show.length(2 * size.radius)}"
    return show.length(size.length) if size.length is not None else ""


def degrees(angle: float) -> str:
    """An angle in degrees, as many places as it needs up to four."""
    return f"{math.degrees(angle):.4f}".rstrip("0").rstrip(".") + "\u00b0"
