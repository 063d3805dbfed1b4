"""Surfaces of a STEP file that are not elementary, as patches.

Source: ISO 10303-42: b_spline_surface_with_knots and its rational form, surface_of_revolution,
surface_of_linear_extrusion, rectangular_trimmed_surface; degenerate tori.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gondrel.core.formats.step.placed import Geometry, numbers_in, spline_of
from gondrel.core.formats.step.records import Record
from gondrel.core.formats.step.tokens import InstanceReference, Parameter
from gondrel.core.integral.patches import (
    ArcPath,
    CurvedPath,
    LinePath,
    Patch,
    Path,
    SplinePatch,
    SweptPatch,
    TurnedPatch,
)
from gondrel.core.integral.splines import Basis

__all__ = ["Surfaces"]

Floats = NDArray[np.float64]

_TURN = np.linspace(0.0, 2 * np.pi, 9)
_DEEPEST = 6


class Surfaces:
    """Makes patches of surface records."""

    def __init__(self, geometry: Geometry) -> None:
        self.geometry = geometry

    def patch(self, number: int, points: Floats, depth: int = 0) -> Patch | None:
        """The patch of a surface, as far as some points of it reach; None for a kind that is not known."""
        record = self.geometry.records.get(number)
        if record is None or depth > _DEEPEST:
            return None
        if "B_SPLINE_SURFACE_WITH_KNOTS" in record.parts:
            return self._spline(record)
        if record.keyword == "SURFACE_OF_LINEAR_EXTRUSION":
            return self._swept(record, points)
        if record.keyword == "SURFACE_OF_REVOLUTION":
            return self._turned(record, points)
        if record.keyword == "RECTANGULAR_TRIMMED_SURFACE":
            return self.patch(record.ref(1), points, depth + 1)
        return None

    def _spline(self, record: Record) -> SplinePatch | None:
        if record.keyword:
            degrees, net = record.parameters[1:3], record.parameters[3]
            lists = record.parameters[8:12]
        else:
            surface = record.parts.get("B_SPLINE_SURFACE", ())
            degrees, net = surface[:2], surface[2] if len(surface) > 2 else None
            lists = record.parts["B_SPLINE_SURFACE_WITH_KNOTS"][:4]
        if len(lists) != 4 or len(degrees) != 2 or not isinstance(net, tuple):
            return None
        rows = [[self._point(p) for p in row] for row in net if isinstance(row, tuple)]
        if len({len(row) for row in rows}) != 1 or any(p is None for row in rows for p in row):
            return None
        mu, mv, ku, kv = (numbers_in(each) for each in lists)
        knots = tuple(
            np.repeat(k, np.array(m, np.int64)) for k, m in ((ku, mu), (kv, mv)) if len(k) == len(m)
        )
        poles = np.array(rows, np.float64)
        p, q = (int(d) if isinstance(d, int) else 0 for d in degrees)
        if len(knots) != 2 or min(p, q) < 1 or (len(knots[0]), len(knots[1])) != (
            poles.shape[0] + p + 1, poles.shape[1] + q + 1
        ):  # fmt: skip
            return None
        weights = None
        if rational := record.parts.get("RATIONAL_B_SPLINE_SURFACE"):
            listed = rational[0] if isinstance(rational[0], tuple) else ()
            shares = [numbers_in(row) for row in listed]
            if {len(row) for row in shares} != {poles.shape[1]} or len(shares) != len(poles):
                return None
            weights = np.array(shares)
            if not (weights > 0).all():
                return None
        return SplinePatch(Basis(knots[0], p), Basis(knots[1], q), poles, weights)

    def _point(self, value: Parameter) -> tuple[float, float, float] | None:
        return self.geometry.points.get(value.number) if isinstance(value, InstanceReference) else None

    def _path(self, number: int, reach: tuple[float, float] | None) -> Path | None:
        """A curve over its whole range, a line over some range of its parameter."""
        geometry = self.geometry
        number = geometry.basis(number)
        if number in geometry.lines:
            point, way = geometry.lines[number]
            vector, start = geometry.vector(way), geometry.points.get(point)
            if vector is None or start is None:
                return None
            return LinePath(np.array(start), np.array(vector), np.array(reach or (0.0, 1.0)))
        if number in geometry.placed:
            keyword, placement, sizes = geometry.placed[number]
            frame = geometry.frame_rows([placement])[0]
            if keyword not in ("CIRCLE", "ELLIPSE") or not sizes or not np.isfinite(frame).all():
                return None
            return ArcPath(np.array([frame[0], sizes[0] * frame[1], sizes[-1] * frame[2]]), _TURN)
        if number in geometry.splines:
            path = spline_of(geometry, number)
            if path is not None:
                return CurvedPath(path, path.basis.breaks)
        return None

    def _swept(self, record: Record, points: Floats) -> SweptPatch | None:
        way = self.geometry.vector(record.ref(2))
        section = self._path(record.ref(1), None)
        if way is None or section is None or isinstance(section, LinePath) or not len(points):
            return None
        direction = np.array(way)
        square = float(direction @ direction)
        if not square > 0:
            return None
        along, start = points @ direction / square, section.at(section.breaks)[0] @ direction / square
        low, high = along.min() - start.max(), along.max() - start.min()
        return SweptPatch(section, direction, np.array([low - 0.01, high + 0.01]))

    def _turned(self, record: Record, points: Floats) -> TurnedPatch | None:
        axis_record = self.geometry.records.get(record.ref(2))
        if axis_record is None or axis_record.keyword != "AXIS1_PLACEMENT":
            return None
        origin = self.geometry.points.get(axis_record.ref(1))
        way = self.geometry.directions.get(axis_record.ref(2), (0.0, 0.0, 1.0))
        if origin is None:
            return None
        axis = np.array(way) / np.linalg.norm(way)
        profile = self._path(record.ref(1), None)
        if isinstance(profile, LinePath):
            profile = _reaching(profile, np.array(origin), axis, points)
        return TurnedPatch(profile, np.array(origin), axis, _TURN) if profile is not None else None


def _reaching(line: LinePath, origin: Floats, axis: Floats, points: Floats) -> LinePath | None:
    """A line as far along as the points that its turning reaches."""
    slope = float(line.direction @ axis)
    if abs(slope) < 1e-9 * float(np.linalg.norm(line.direction)) or not len(points):
        return None
    at = ((points - line.point) @ axis) / slope
    return LinePath(line.point, line.direction, np.array([at.min() - 1e-9, at.max() + 1e-9]))
