"""Named views of a model: where it was seen from, how it was cut, and the dimensions on it."""

from __future__ import annotations

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
        spread: how far it is taken apart, 0 to 1, and by what: see Explosion.
        dimensions: what was measured on it.
    """

    name: str
    camera: Camera
    cut: Cut = CLEAR
    leaves_whole: bool = False
    spread: float = 0.0
    dimensions: tuple[Dimension, ...] = ()
