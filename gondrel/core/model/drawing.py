"""Views of a model on a drawing sheet: what is seen, what is hidden, and how lines are told apart."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.cutting import CutPlane
from gondrel.core.model.outline import Curve, PartOutline

__all__ = ["DrawnLine", "DrawnView", "LineRole", "ViewFrame"]

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
