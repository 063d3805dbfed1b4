"""What single faces and edges of a body are: kind and size, for saying so on screen and in reports."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["BodyDetail", "EdgeDetail", "FaceDetail", "field_kind"]


@dataclass(frozen=True, slots=True)
class FaceDetail:
    """One face.

    Args:
        kind: plane, cylinder, cone, sphere, torus, bspline, ...
        area: mm2.
        sizes: mm, by kind: diameter of a cylinder or sphere; the two diameters of a torus (of its
            centre line and of its tube); none otherwise.
        angle: half angle of a cone, rad, 0 otherwise.
    """

    kind: str
    area: float
    sizes: tuple[float, ...] = ()
    angle: float = 0.0


@dataclass(frozen=True, slots=True)
class EdgeDetail:
    """One edge: kind of curve (line, circle, ellipse, bspline, ...), length in mm, diameter of a circle."""

    kind: str
    length: float
    diameter: float = 0.0


@dataclass(frozen=True, slots=True)
class BodyDetail:
    """All faces and edges of a body, in the order of its B-rep."""

    faces: tuple[FaceDetail, ...]
    edges: tuple[EdgeDetail, ...]


def field_kind(other: str) -> str:
    """Under which kind the store keeps the deviation of a body's mesh from another body (its hash)."""
    return f"from-{other[:24]}"
