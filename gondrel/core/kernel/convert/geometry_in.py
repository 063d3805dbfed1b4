"""Kernel curves and surfaces from plain values: exact where the kernel has the same thing.

Offsets of elementary surfaces, swept lines and circles and balls rolling along lines and circles are
elementary again (textbook geometry); other rolling balls are the kernel's pipes about the spine.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from OCP.Geom import (
    Geom_BSplineSurface,
    Geom_Circle,
    Geom_ConicalSurface,
    Geom_Curve,
    Geom_CylindricalSurface,
    Geom_Ellipse,
    Geom_Line,
    Geom_OffsetSurface,
    Geom_Plane,
    Geom_SphericalSurface,
    Geom_Surface,
    Geom_SurfaceOfLinearExtrusion,
    Geom_SurfaceOfRevolution,
    Geom_ToroidalSurface,
)
from OCP.GeomFill import GeomFill_Pipe
from OCP.gp import gp_Ax1, gp_Ax2, gp_Ax3, gp_Dir, gp_Pnt

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.geometry.basis import basis_of
from gondrel.core.kernel.geometry.intersection import contact_curve, intersection_curve
from gondrel.core.kernel.geometry.splines import bsurface_in, spline_in
from gondrel.core.model.geometry import (
    BCurve,
    Blend,
    BlendBound,
    BSurface,
    Circle,
    Cone,
    Curve,
    Cylinder,
    Ellipse,
    Intersection,
    Line,
    Offset,
    Plane,
    Sphere,
    Spun,
    Surface,
    Swept,
    Torus,
    Trimmed,
    Vector,
)

__all__ = ["CurveMaker", "MadeSurface"]

_PIPE_TOLERANCE = 1e-7
_ALIGNED = 1e-10


@dataclass(frozen=True, slots=True)
class MadeSurface:
    """A kernel surface, and whether its normal is opposed to that of the plain one, flips included."""

    surface: Geom_Surface
    is_opposed: bool


def _point(v: Vector) -> gp_Pnt:
    return gp_Pnt(*v)


def _direction(v: Vector) -> gp_Dir:
    if not math.hypot(*v) > 0.1:
        raise KernelRefused("a direction has no length")
    return gp_Dir(*v)


def _frame(point: Vector, axis: Vector, x_axis: Vector) -> gp_Ax3:
    main, side = _direction(axis), _direction(x_axis)
    if main.IsParallel(side, 1e-9):
        raise KernelRefused("the x axis of a surface or curve lies along its axis")
    return gp_Ax3(_point(point), main, side)


def _positive(value: float, what: str) -> float:
    if not value > 0.0:
        raise KernelRefused(f"{what} has the radius {value:g} mm")
    return value


class CurveMaker:
    """Makes curves and surfaces, and keeps how far those that were approximated may lie off."""

    def __init__(self) -> None:
        self.deviation = 0.0
        self.approximated: list[str] = []

    def _note(self, what: str, deviation: float) -> None:
        self.approximated.append(what)
        self.deviation = max(self.deviation, deviation)

    # --- curves ----------------------------------------------------------------------------

    def curve(self, curve: Curve) -> Geom_Curve:
        """The kernel's curve, flips applied. Raises KernelRefused."""
        made = self._curve(curve)
        return made.Reversed() if curve.flipped else made

    def _curve(self, curve: Curve) -> Geom_Curve:
        if isinstance(curve, Line):
            return Geom_Line(_point(curve.point), _direction(curve.direction))
        if isinstance(curve, Circle):
            frame = _frame(curve.centre, curve.normal, curve.x_axis).Ax2()
            return Geom_Circle(frame, _positive(curve.radius, "a circle"))
        if isinstance(curve, Ellipse):
            return self._ellipse(curve)
        if isinstance(curve, BCurve):
            return spline_in(curve)
        if isinstance(curve, Trimmed):
            return self.curve(curve.basis)
        if isinstance(curve, Intersection):
            return self._intersection(curve)
        raise KernelRefused("a curve on a surface can't stand alone")

    def _ellipse(self, curve: Ellipse) -> Geom_Curve:
        minor, major = _positive(curve.minor, "an ellipse"), _positive(curve.major, "an ellipse")
        frame = _frame(curve.centre, curve.normal, curve.x_axis).Ax2()
        if minor > major:  # the kernel wants the longer radius on its x axis
            frame = gp_Ax2(frame.Location(), frame.Direction(), frame.YDirection())
            major, minor = minor, major
        return Geom_Ellipse(frame, major, minor)

    def _intersection(self, curve: Intersection) -> Geom_Curve:
        bounds = [s for s in (curve.first, curve.second) if isinstance(s, BlendBound)]
        if bounds:
            blend = bounds[0].blend
            support = blend.second if bounds[0].side else blend.first
            spine, touched = self.curve(blend.spine), self.surface(support).surface
            made, deviation = contact_curve(spine, touched, curve.chart, curve.closed)
        else:
            one, other = self.surface(curve.first).surface, self.surface(curve.second).surface
            made, deviation = intersection_curve(one, other, curve.chart, curve.closed)
        if deviation > 0.0:
            self._note("intersection curve", deviation)
        return made

    # --- surfaces --------------------------------------------------------------------------

    def surface(self, surface: Surface) -> MadeSurface:
        """The kernel's surface. Raises KernelRefused."""
        made = self._surface(surface)
        return MadeSurface(made.surface, made.is_opposed != surface.flipped)

    def _surface(self, surface: Surface) -> MadeSurface:
        if isinstance(surface, Plane):
            return MadeSurface(Geom_Plane(_frame(surface.point, surface.normal, surface.x_axis)), False)
        if isinstance(surface, Cylinder):
            frame = _frame(surface.point, surface.axis, surface.x_axis)
            radius = _positive(surface.radius, "a cylinder")
            return MadeSurface(Geom_CylindricalSurface(frame, radius), False)
        if isinstance(surface, Cone):
            return self._cone(surface)
        if isinstance(surface, Sphere):
            frame = _frame(surface.centre, surface.axis, surface.x_axis)
            made = Geom_SphericalSurface(frame, _positive(abs(surface.radius), "a sphere"))
            return MadeSurface(made, surface.radius < 0)
        if isinstance(surface, Torus):
            return self._torus(surface)
        if isinstance(surface, BSurface):
            return MadeSurface(bsurface_in(surface), False)
        if isinstance(surface, Offset):
            return self._offset(surface)
        if isinstance(surface, Swept):
            return self._swept(surface)
        if isinstance(surface, Spun):
            elementary = _spun_line(surface)
            if elementary is not None:
                return self.surface(elementary)
            axis = gp_Ax1(_point(surface.point), _direction(surface.axis))
            return MadeSurface(Geom_SurfaceOfRevolution(self.curve(surface.profile), axis), True)
        if isinstance(surface, Blend):
            return self._blend(surface)
        raise KernelRefused("the border of a blend is no surface of a face")

    def _cone(self, surface: Cone) -> MadeSurface:
        if not 1e-9 < surface.half_angle < math.pi / 2 - 1e-9:
            raise KernelRefused(f"a cone has the half angle {math.degrees(surface.half_angle):g} degrees")
        frame = _frame(surface.point, surface.axis, surface.x_axis)
        if surface.radius < 0:
            raise KernelRefused(f"a cone has the radius {surface.radius:g} mm")
        return MadeSurface(Geom_ConicalSurface(frame, surface.half_angle, surface.radius), False)

    def _torus(self, surface: Torus) -> MadeSurface:
        frame = _frame(surface.centre, surface.axis, surface.x_axis)
        minor, major = _positive(surface.minor, "a torus"), surface.major
        if abs(major) >= minor and major < 0:
            raise KernelRefused(f"a torus has the radii {major:g} and {minor:g} mm")
        # the kernel's torus holds both the apple and the lemon; the loops choose
        return MadeSurface(Geom_ToroidalSurface(frame, abs(major), minor), False)

    def _offset(self, surface: Offset) -> MadeSurface:
        inner, distance = surface.surface, surface.distance
        along = -distance if inner.flipped else distance
        if isinstance(inner, Plane):
            (x, y, z), (a, b, c) = inner.point, inner.normal
            return self.surface(replace(inner, point=(x + along * a, y + along * b, z + along * c)))
        if isinstance(inner, Cylinder | Sphere):
            return self.surface(replace(inner, radius=inner.radius + along))
        if isinstance(inner, Torus):
            return self.surface(replace(inner, minor=inner.minor + along))
        if isinstance(inner, Cone):
            return self.surface(replace(inner, radius=inner.radius + along / math.cos(inner.half_angle)))
        made = self.surface(inner)
        outward = -distance if made.is_opposed else distance
        return MadeSurface(Geom_OffsetSurface(made.surface, outward), made.is_opposed)

    def _swept(self, surface: Swept) -> MadeSurface:
        section, way = surface.section, surface.direction
        if isinstance(section, Circle) and abs(_dot(section.normal, way)) > 1 - _ALIGNED:
            cylinder = Cylinder(section.centre, section.normal, section.x_axis, section.radius)
            # tangent x sweep leads outward where the sweep runs with the circle's normal
            opposed = (_dot(section.normal, way) < 0) != section.flipped
            return self.surface(replace(cylinder, flipped=opposed))
        made = Geom_SurfaceOfLinearExtrusion(self.curve(section), _direction(way))
        return MadeSurface(made, False)

    def _blend(self, surface: Blend) -> MadeSurface:
        spine, radius = surface.spine, _positive(surface.radius, "a blend")
        while isinstance(spine, Trimmed):
            spine = spine.basis
        if isinstance(spine, Line):
            x = _across(spine.direction)
            return self.surface(Cylinder(spine.point, spine.direction, x, radius))
        if isinstance(spine, Circle):
            return self.surface(Torus(spine.centre, spine.normal, spine.x_axis, spine.radius, radius))
        pipe = GeomFill_Pipe(self.curve(spine), radius)
        pipe.Perform(_PIPE_TOLERANCE, False)
        made = basis_of(pipe.Surface())
        if isinstance(made, Geom_BSplineSurface):
            for closed, act in ((made.IsUClosed, made.SetUPeriodic), (made.IsVClosed, made.SetVPeriodic)):
                if closed():
                    act()
        self._note("rolling-ball blend", max(_PIPE_TOLERANCE, pipe.ErrorOnSurf()))
        return MadeSurface(made, False)


def _spun_line(spun: Spun) -> Surface | None:
    """A line turned about an axis in its plane: a cylinder, a cone or a plane; None for anything else.

    The natural normal of a spun surface is that of the profile's direction across the way it turns.
    """
    line = spun.profile
    if not isinstance(line, Line):
        return None
    axis = np.array(spun.axis) / np.linalg.norm(spun.axis)
    way = np.array(line.direction) * (-1.0 if line.flipped else 1.0)
    along = float(way @ axis)
    out = way - along * axis
    point = np.array(line.point)
    if np.linalg.norm(out) > 1e-12:  # at the height of the axis' own origin or where it is off the axis
        reach = np.array(line.point) - np.array(spun.point)
        radial = reach - (reach @ axis) * axis
        if np.linalg.norm(radial) < 1e-9:
            point = point + way * 10.0
    reach = point - np.array(spun.point)
    radial = reach - (reach @ axis) * axis
    radius = float(np.linalg.norm(radial))
    if radius < 1e-9:
        return None
    x_axis = radial / radius
    slope = float(way @ x_axis)
    if abs(slope * slope + along * along - 1.0) > 1e-12:
        return None  # it passes the axis askew: a hyperboloid
    natural = np.cross(way, np.cross(axis, x_axis))
    origin = tuple((point - radial).tolist())
    main, side = tuple(axis.tolist()), tuple(x_axis.tolist())
    if abs(along) < 1e-12:
        return Plane(origin, tuple(natural.tolist()), side)  # type: ignore[arg-type]
    opposed = float(natural @ x_axis) < 0
    if abs(slope) < 1e-12:
        return Cylinder(origin, main, side, radius, opposed)  # type: ignore[arg-type]
    grows = slope / along
    upwards = main if grows > 0 else tuple((-axis).tolist())
    return Cone(origin, upwards, side, radius, math.atan(abs(grows)), opposed)  # type: ignore[arg-type]


def _dot(a: Vector, b: Vector) -> float:
    return sum(p * q for p, q in zip(a, b, strict=True))


def _across(direction: Vector) -> Vector:
    """A unit vector at right angles to a direction."""
    least = min(range(3), key=lambda i: abs(direction[i]))
    other = _direction(tuple(float(i == least) for i in range(3)))  # type: ignore[arg-type]
    made = _direction(direction).Crossed(other)
    return made.X(), made.Y(), made.Z()
