"""Views of a model on a drawing sheet: what is seen, what is hidden, and how lines are told apart."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.cutting import CutPlane
from gondrel.core.model.outline import Curve, PartOutline

__all__ = ["DrawWish", "Drawing", "DrawnLine", "DrawnView", "LineRole", "ViewFrame"]

Floats = NDArray[np.float64]


class LineRole(StrEnum):
    """What a line is: a sharp edge, the contour of a curved face, or where two faces meet smoothly."""

    EDGE = "edge"
    CONTOUR = "contour"
    SMOOTH = "smooth"


@dataclass(frozen=True, slots=True)
class ViewFrame:
    """From where a view is drawn.

    Args:
        name: of the view; right, up: unit vectors of the sheet in the model's frame.
        cut: what is taken away before, or None.
    """

    name: str
    right: tuple[float, float, float]
    up: tuple[float, float, float]
    cut: CutPlane | None = None

    @property
    def towards(self) -> Floats:
        """The unit vector from the model to who looks at it."""
        towards: Floats = np.cross(self.right, self.up)
        return towards


@dataclass(frozen=True, slots=True)
class DrawnLine:
    """A line of a view.

    Args:
        part: the place, among those drawn, of the body it belongs to.
    """

    curve: Curve
    role: LineRole
    is_hidden: bool
    part: int


@dataclass(frozen=True, slots=True)
class DrawnView:
    """A view, ready for a sheet.

    Args:
        parts: the names of the bodies drawn; colours: #rrggbb of each.
        lines: without those that another covers; cut: outlines of cut faces with their hatching.
    """

    name: str
    parts: tuple[str, ...]
    colours: tuple[str, ...]
    lines: tuple[DrawnLine, ...]
    cut: tuple[PartOutline, ...] = field(default=())


@dataclass(frozen=True, slots=True)
class DrawWish:
    """What a drawing is to show, and how.

    Args:
        views: usual names, flat, section=AXIS or section=PX,PY,PZ,NX,NY,NZ; hidden: whether hidden lines
            are dashed or left out; hidden_iso: whether they are in the isometric view too.
        smooth: whether lines stand where faces meet smoothly.
        version, unit: of DXF; layers: by part, kind of line or both; projection: first or third angle.
        chord, length: of polylines in place of splines, mm; neither where splines stay.
        items: queries of what is drawn; everything where there are none.
        fields: of the title block, label and text; sheet: A4 to A0; kind: what the figures of carriage are
            for, empty for none.
    """

    views: tuple[str, ...] = ("front", "top", "left", "iso")
    hidden: bool = True
    hidden_iso: bool = True
    smooth: bool = False
    version: str = "R2010"
    unit: str = "mm"
    layers: str = "both"
    projection: str = "first"
    chord: float | None = None
    length: float | None = None
    items: tuple[str, ...] = ()
    fields: tuple[tuple[str, str], ...] = ()
    sheet: str = "A3"
    kind: str = ""


@dataclass(frozen=True, slots=True)
class Drawing:
    """Views of a model, ready to be written.

    Args:
        outlines: in their places on the sheet, mm; views: what each shows, as the contract tells it.
        left_out: names of parts that are not drawn; deviation: of polylines, mm, None where there are none.
    """

    outlines: tuple[PartOutline, ...]
    views: tuple[dict[str, Any], ...]
    left_out: tuple[str, ...] = ()
    deviation: float | None = None
