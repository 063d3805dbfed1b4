"""Curves and surfaces as plain values, between the nodes of a file and the kernel.

Lengths are millimetres and angles radians. Directions are unit vectors. `flipped` turns the natural
direction of a curve or the natural normal of a surface round.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

__all__ = [
    "BCurve",
    "BSurface",
    "Blend",
    "BlendBound",
    "Circle",
    "Cone",
    "Curve",
    "Cylinder",
    "Ellipse",
    "Intersection",
    "Line",
    "Offset",
    "OnSurface",
    "Plane",
    "Sphere",
    "Spun",
    "Surface",
    "Swept",
    "Torus",
    "Trimmed",
    "Vector",
    "vector_of",
]

Vector = tuple[float, float, float]


def vector_of(values: Iterable[float]) -> Vector:
    """Three numbers as plain ones."""
    x, y, z = (float(v) for v in values)
    return x, y, z


@dataclass(frozen=True, slots=True)
class Line:
    """A straight line through a point."""

    point: Vector
    direction: Vector
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Circle:
    """A circle, counterclockwise about its normal from the x axis."""

    centre: Vector
    normal: Vector
    x_axis: Vector
    radius: float
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Ellipse:
    """An ellipse; the x axis is that of the major radius."""

    centre: Vector
    normal: Vector
    x_axis: Vector
    major: float
    minor: float
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class BCurve:
    """A B-spline curve in space or, as a curve on a surface, in its parameters.

    Args:
        poles: each a point of two or three coordinates, not multiplied by its weight.
        weights: one for each pole, empty when all are one.
        knots, multiplicities: distinct knots; the multiplicities sum up to poles + degree + 1.
    """

    degree: int
    poles: tuple[tuple[float, ...], ...]
    weights: tuple[float, ...]
    knots: tuple[float, ...]
    multiplicities: tuple[int, ...]
    periodic: bool = False
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Intersection:
    """Where two surfaces meet, near a chain of points.

    Args:
        chart: points on it in order, ends included.
        chordal_error: how far the chain may lie off the curve, mm; 0 when not told.
    """

    first: Surface
    second: Surface
    chart: tuple[Vector, ...]
    closed: bool
    chordal_error: float = 0.0
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Trimmed:
    """A stretch of a basis curve from one point to another along it."""

    basis: Curve
    start: Vector
    end: Vector
    first: float
    last: float
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class OnSurface:
    """A curve given by the parameters of a surface.

    Parameters are those of ISO 10303-42 in mm and radians: a plane's along its axes, a cylinder's angle
    and height, a cone's angle and height along its axis, a sphere's longitude and latitude, a torus's
    angles, a B-surface's own.

    Args:
        original: the curve in space that it was made from, along it, where that is kept.
    """

    surface: Surface
    curve: BCurve
    flipped: bool = False
    original: Curve | None = None


Curve = Line | Circle | Ellipse | BCurve | Intersection | Trimmed | OnSurface


@dataclass(frozen=True, slots=True)
class Plane:
    """A plane through a point."""

    point: Vector
    normal: Vector
    x_axis: Vector
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Cylinder:
    """A cylinder; its natural normal leads away from the axis."""

    point: Vector
    axis: Vector
    x_axis: Vector
    radius: float
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Cone:
    """A cone with this radius at its point, growing along the axis."""

    point: Vector
    axis: Vector
    x_axis: Vector
    radius: float
    half_angle: float
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Sphere:
    """A sphere; its natural normal leads away from the centre."""

    centre: Vector
    axis: Vector
    x_axis: Vector
    radius: float
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Torus:
    """A torus; with a minor radius above the major one it crosses itself, a negative major radius
    takes its inner part (a lemon)."""

    centre: Vector
    axis: Vector
    x_axis: Vector
    major: float
    minor: float
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class BSurface:
    """A B-spline surface; its natural normal is du x dv.

    Args:
        poles: rows by u, each a row by v of points, not multiplied by their weights.
        weights: rows as the poles, empty when all are one.
    """

    u_degree: int
    v_degree: int
    poles: tuple[tuple[Vector, ...], ...]
    weights: tuple[tuple[float, ...], ...]
    u_knots: tuple[float, ...]
    u_multiplicities: tuple[int, ...]
    v_knots: tuple[float, ...]
    v_multiplicities: tuple[int, ...]
    u_periodic: bool = False
    v_periodic: bool = False
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Offset:
    """A surface at a distance along the natural normal of another."""

    surface: Surface
    distance: float
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Swept:
    """A section moved along a straight direction."""

    section: Curve
    direction: Vector
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Spun:
    """A profile turned about an axis."""

    profile: Curve
    point: Vector
    axis: Vector
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class Blend:
    """The envelope of a ball that rolls along two surfaces, its centre on the spine.

    Args:
        radius: of the ball, mm; offsets: on which side of each surface's normal it rolls, signed.
    """

    first: Surface
    second: Surface
    spine: Curve
    radius: float
    offsets: tuple[float, float]
    flipped: bool = False


@dataclass(frozen=True, slots=True)
class BlendBound:
    """A surface that stands for one border of a blend: where the ball touches a support."""

    blend: Blend
    side: int
    flipped: bool = False


Surface = Plane | Cylinder | Cone | Sphere | Torus | BSurface | Offset | Swept | Spun | Blend | BlendBound
