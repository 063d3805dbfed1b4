"""Named views of a model: where it was seen from, how it was cut, and the dimensions on it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from gondrel.core.model.cutting import CLEAR, Cut, Vector

__all__ = ["Camera", "Dimension", "View"]


@dataclass(frozen=True, slots=True)
class Camera:
    """Where the picture is seen from.

    Args:
        position, focal: mm; up: which way is up; scale: half the height that is seen in parallel, mm.
    """

    position: Vector
    focal: Vector
    up: Vector
    scale: float
    is_parallel: bool = False


@dataclass(frozen=True, slots=True)
class Dimension:
    """A measure that is kept: between two points of the whole, mm, with what is written at it."""

    points: tuple[Vector, Vector]
    text: str
    name: str = ""


@dataclass(frozen=True, slots=True)
class View:
    """A view that has a name.

    Args:
        cut: by which planes the model is cut in it; leaves_whole: whether shafts and the like are not.
        spread: how far it is taken apart, 0 to 1; level: down to which level; drawn_out: how far single
            components are drawn out besides, mm, by path.
        dimensions: what was measured on it.
    """

    name: str
    camera: Camera
    cut: Cut = CLEAR
    leaves_whole: bool = False
    spread: float = 0.0
    level: int = 1
    drawn_out: tuple[tuple[tuple[str, ...], float], ...] = ()
    dimensions: tuple[Dimension, ...] = ()

    @property
    def is_sound(self) -> bool:
        """Whether it can be shown: all its numbers are, and its planes have a direction."""
        camera = self.camera
        numbers = [*camera.position, *camera.focal, *camera.up, camera.scale, self.spread]
        numbers += [v for plane in self.cut.planes for v in (*plane.point, *plane.normal)]
        numbers += [v for each in self.dimensions for point in each.points for v in point]
        numbers += [far for _, far in self.drawn_out]
        directed = all(math.hypot(*plane.normal) > 1e-9 for plane in self.cut.planes)
        return all(map(math.isfinite, numbers)) and directed and len(self.cut.planes) <= _MOST_PLANES


_MOST_PLANES = 6
