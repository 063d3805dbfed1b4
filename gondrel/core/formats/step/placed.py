"""Points, placements, and the curves and surfaces they place, in bulk from the records of a STEP file.

Source: ISO 10303-42, clause 4.4 (placements, curves and surfaces).
"""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import InstanceReference
from gondrel.core.formats.step.units import angle_factor
from gondrel.core.integral.splines import SplinePath

__all__ = [
    "AXES",
    "FLAG",
    "LIST",
    "NAME",
    "REF",
    "Geometry",
    "open_conic",
    "reals",
    "references",
    "spline_of",
]

Floats = NDArray[np.float64]
Vector = tuple[float, float, float]

NAME = rb"\(\s*(?:'[^']*'|\$)\s*,\s*"
REF = rb"#(\d+)\s*"
LIST = rb"\(([^()]*)\)\s*"
FLAG = rb",\s*\.([TF])\.\s*"
"""The opening bracket and the name of a record's parameters; a reference; a plain list; a truth."""

_PLACED = re.compile(NAME + rb"#(\d+)\s*((?:,[^,()]*)*)\)")
_POINT = re.compile(NAME + LIST)
AXES = re.compile(NAME + REF + rb",\s*(?:#(\d+)|\$)\s*,\s*(?:#(\d+)|\$)")
_FIRST = re.compile(NAME + REF)
_LINE = re.compile(NAME + REF + rb",\s*" + REF)
_VECTOR = re.compile(NAME + REF + rb",\s*([^,()]+)\)")
_SPLINE = re.compile(NAME + rb"(\d+)\s*,\s*" + LIST + rb",[^,]*,[^,]*,[^,]*,\s*" + LIST + rb",\s*" + LIST)
_REFERENCE = re.compile(rb"#(\d+)")
_BASED = ("SURFACE_CURVE", "SEAM_CURVE", "INTERSECTION_CURVE", "BOUNDED_SURFACE_CURVE", "TRIMMED_CURVE")
_KINDS = ("PLANE", "CYLINDRICAL_SURFACE", "CONICAL_SURFACE", "SPHERICAL_SURFACE", "TOROIDAL_SURFACE",
          "DEGENERATE_TOROIDAL_SURFACE", "CIRCLE", "ELLIPSE", "HYPERBOLA", "PARABOLA")  # fmt: skip


def references(text: bytes) -> list[int]:
    """The record numbers in a piece of text."""
    return [int(n) for n in _REFERENCE.findall(text)]


def reals(text: bytes) -> list[float]:
    """The numbers in a plain list; what is no number is left out."""
    values = []
    for part in text.split(b","):
        try:
            values.append(float(part))
        except ValueError:
            continue
    return values


class Geometry:
    """Points, directions, placements, and what they place, by record number; lengths as in the file.

    Attributes:
        placed: keyword, placement and numbers of curves and surfaces that have a placement.
        splines: degree, points, multiplicities, knots and weights of B-spline curves.
        based: the curve in space that a curve on surfaces or a trimmed curve is made from.
    """

    def __init__(self, records: Records) -> None:
        self.records = records
        self.angle = angle_factor(records)
        self.points = self._triples("CARTESIAN_POINT")
        self.directions = self._triples("DIRECTION")
        self.frames: dict[int, tuple[Vector, Vector, Vector | None]] = {}
        for number, match in records.matches("AXIS2_PLACEMENT_3D", AXES):
            origin = self.points.get(int(match[1]))
            if origin is not None:
                z = self.directions.get(int(match[2])) if match[2] else None
                x = self.directions.get(int(match[3])) if match[3] else None
                self.frames[number] = (origin, z or (0.0, 0.0, 1.0), x)
        self.placed: dict[int, tuple[str, int, list[float]]] = {}
        for keyword in _KINDS:
            for number, match in records.matches(keyword, _PLACED):
                self.placed[number] = (keyword, int(match[1]), reals(match[2]))
        self.lines = {n: (int(m[1]), int(m[2])) for n, m in records.matches("LINE", _LINE)}
        self.vectors = {n: (int(m[1]), *reals(m[2])) for n, m in records.matches("VECTOR", _VECTOR)}
        self.based = {
            number: int(match[1])
            for keyword in _BASED
            for number, match in records.matches(keyword, _FIRST)
        }
        self.splines: dict[int, tuple[int, list[int], list[int], list[float], list[float] | None]] = {}
        for number, match in records.matches("B_SPLINE_CURVE_WITH_KNOTS", _SPLINE):
            mults = [int(m) for m in match[3].split(b",")]
            self.splines[number] = (int(match[1]), references(match[2]), mults, reals(match[4]), None)
        for record in records.of("RATIONAL_B_SPLINE_CURVE"):
            self._rational(record)

    def _triples(self, keyword: str) -> dict[int, Vector]:
        triples: dict[int, Vector] = {}
        for number, match in self.records.matches(keyword, _POINT):
            parts = match[1].split(b",")
            if len(parts) == 3:
                try:
                    triples[number] = (float(parts[0]), float(parts[1]), float(parts[2]))
                except ValueError:
                    continue
        return triples

    def _rational(self, record: Record) -> None:
        curve, knots = record.parts.get("B_SPLINE_CURVE"), record.parts.get("B_SPLINE_CURVE_WITH_KNOTS")
        weights = record.parts["RATIONAL_B_SPLINE_CURVE"]
        if not curve or not knots or not weights:
            return
        poles = (
            [p.number for p in curve[1] if isinstance(p, InstanceReference)]
            if isinstance(curve[1], tuple)
            else []
        )
        mults, at, shares = (numbers_in(part) for part in (knots[0], knots[1], weights[0]))
        degree = int(curve[0]) if isinstance(curve[0], int) else 0
        self.splines[record.number] = (degree, poles, [int(m) for m in mults], at, shares)

    def basis(self, number: int) -> int:
        """The curve in space that a curve on surfaces or a trimmed curve is made from."""
        for _ in range(8):
            if number not in self.based:
                break
            number = self.based[number]
        return number

    def vector(self, number: int) -> Vector | None:
        """A VECTOR with its length."""
        way, *length = self.vectors.get(number, (0,))
        direction = self.directions.get(int(way))
        if direction is None or not length:
            return None
        size = float(np.linalg.norm(direction)) or 1.0
        x, y, z = (float(c) * float(length[0]) / size for c in direction)
        return x, y, z

    def frame_rows(self, numbers: Sequence[int]) -> Floats:
        """Origin and axes of placements, (n, 4, 3); not a number where there is none."""
        origin, z, x = np.full((3, len(numbers), 3), np.nan)
        for row, number in enumerate(numbers):
            frame = self.frames.get(number)
            if frame is not None:
                origin[row], z[row] = frame[0], frame[1]
                x[row] = frame[2] if frame[2] is not None else _any_across(frame[1])
        with np.errstate(invalid="ignore", divide="ignore"):
            z /= np.linalg.norm(z, axis=1, keepdims=True)
            x = x - np.einsum("ij,ij->i", x, z)[:, None] * z
            size = np.linalg.norm(x, axis=1, keepdims=True)
            x /= np.where(size > 0, size, np.nan)
        return np.stack([origin, x, np.cross(z, x), z], axis=1)


def numbers_in(value: object) -> list[float]:
    """The numbers of a parsed list."""
    return [float(v) for v in value if isinstance(v, int | float)] if isinstance(value, tuple) else []


def _any_across(z: Vector) -> Vector:
    """The direction a placement takes for its x axis when none is given (ISO 10303-42, first_proj_axis)."""
    return (1.0, 0.0, 0.0) if abs(z[1]) > 1e-12 or abs(z[2]) > 1e-12 else (0.0, 1.0, 0.0)


def spline_of(geometry: Geometry, number: int) -> SplinePath | None:
    """A B-spline curve over its whole range, None when it makes no sense."""
    degree, refs, mults, values, weights = geometry.splines[number]
    poles = [geometry.points.get(ref) for ref in refs]
    knots = np.repeat(values, mults) if len(values) == len(mults) else np.zeros(0)
    if None in poles or len(knots) != len(poles) + degree + 1 or degree < 1:
        return None
    shares = np.array(weights) if weights is not None and len(weights) == len(poles) else None
    if weights is not None and (shares is None or not (shares > 0).all()):
        return None
    return SplinePath.whole(knots, degree, np.array(poles), shares)


def open_conic(keyword: str, sizes: Sequence[float], frame: Floats, ends: Floats) -> SplinePath | None:
    """The stretch of a hyperbola's right branch or a parabola between two points, as a rational spline.

    Args:
        frame: (4, 3) of its placement; ends: (2, 3).

    Source: a conic as a rational quadratic: the middle pole is where the tangents at the ends meet
    (Piegl and Tiller, The NURBS Book, 7.3); cosh and sinh in the place of cos and sin.
    """
    local = (ends - frame[0]) @ frame[1:].T
    if keyword == "HYPERBOLA" and len(sizes) == 2 and min(sizes) > 0:
        t = np.arcsinh(local[:, 1] / sizes[1])
        middle, half = t.sum() / 2, (t[1] - t[0]) / 2
        weight = float(np.cosh(half))
        flat = np.array([sizes[0] * np.cosh(middle), sizes[1] * np.sinh(middle)]) / weight
    elif keyword == "PARABOLA" and len(sizes) == 1 and sizes[0] > 0:
        t = local[:, 1] / (2 * sizes[0])
        flat, weight = sizes[0] * np.array([t[0] * t[1], t.sum()]), 1.0
    else:
        return None
    pole = frame[0] + flat @ frame[1:3]
    knots = np.array([0.0, 0, 0, 1, 1, 1])
    return SplinePath.whole(knots, 2, np.array([ends[0], pole, ends[1]]), np.array([1.0, weight, 1.0]))
