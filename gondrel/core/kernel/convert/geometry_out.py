"""Kernel curves and surfaces as plain values.

What the plain values know is taken as it is; parabolas, extrusions, surfaces of revolution and the
like become B-splines, exactly where the kernel can, else to a tolerance that is told.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from OCP.Geom import (
    Geom_BezierSurface,
    Geom_BSplineCurve,
    Geom_BSplineSurface,
    Geom_Circle,
    Geom_ConicalSurface,
    Geom_Curve,
    Geom_CylindricalSurface,
    Geom_Ellipse,
    Geom_Line,
    Geom_Plane,
    Geom_RectangularTrimmedSurface,
    Geom_SphericalSurface,
    Geom_Surface,
    Geom_ToroidalSurface,
    Geom_TrimmedCurve,
)
from OCP.Geom2d import Geom2d_BSplineCurve, Geom2d_Curve, Geom2d_TrimmedCurve
from OCP.Geom2dConvert import Geom2dConvert
from OCP.GeomConvert import GeomConvert
from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.model.geometry import (
    BCurve,
    BSurface,
    Circle,
    Cone,
    Curve,
    Cylinder,
    Ellipse,
    Line,
    Plane,
    Sphere,
    Surface,
    Torus,
    Vector,
)

__all__ = ["Described", "curve_of", "plane_curve_of", "surface_of"]

_SAME = 1e-12
Map = tuple[float, float, float, float]
"""Rows of a 2x2 matrix from the kernel's surface parameters to those of the model."""


@dataclass(frozen=True, slots=True)
class Described:
    """A surface, whether its natural normal is the kernel's, and its parameters against the kernel's."""

    surface: Surface
    is_same_side: bool
    parameters: Map


def point_of(point: gp_Pnt) -> Vector:
    """A kernel point."""
    return point.X(), point.Y(), point.Z()


def direction_of(direction: gp_Dir) -> Vector:
    """A kernel direction."""
    return direction.X(), direction.Y(), direction.Z()


def _negated(v: Vector) -> Vector:
    return -v[0], -v[1], -v[2]


def curve_of(curve: Geom_Curve, first: float, last: float) -> Curve:
    """A stretch of a kernel curve; conics and lines are given whole.

    Raises:
        KernelRefused: when the kernel can't turn it into a B-spline.
    """
    while isinstance(curve, Geom_TrimmedCurve):
        curve = curve.BasisCurve()
    if isinstance(curve, Geom_Line):
        axis = curve.Position()
        return Line(point_of(axis.Location()), direction_of(axis.Direction()))
    if isinstance(curve, Geom_Circle | Geom_Ellipse):
        frame = curve.Position()
        centre, normal = point_of(frame.Location()), direction_of(frame.Direction())
        x_axis = direction_of(frame.XDirection())
        if isinstance(curve, Geom_Circle):
            return Circle(centre, normal, x_axis, curve.Radius())
        return Ellipse(centre, normal, x_axis, curve.MajorRadius(), curve.MinorRadius())
    with kernel_call("turning a curve into a B-spline"):
        return _spline_of(curve, first, last)


def _spline_of(curve: Geom_Curve, first: float, last: float) -> BCurve:
    if isinstance(curve, Geom_BSplineCurve):
        spline = Geom_BSplineCurve(curve)  # a copy: the curve is shared with the model
    else:
        spline = GeomConvert.CurveToBSplineCurve_s(Geom_TrimmedCurve(curve, first, last))
    span = spline.LastParameter() - spline.FirstParameter()
    whole = abs(spline.FirstParameter() - first) + abs(spline.LastParameter() - last) < _SAME * max(span, 1)
    if not whole:
        spline.Segment(first, last)
    if spline.IsPeriodic():
        spline.SetNotPeriodic()
    count = spline.NbPoles()
    poles = tuple(point_of(spline.Pole(i)) for i in range(1, count + 1))
    weights = tuple(spline.Weight(i) for i in range(1, count + 1)) if spline.IsRational() else ()
    knots = tuple(spline.Knot(i) for i in range(1, spline.NbKnots() + 1))
    multiplicities = tuple(spline.Multiplicity(i) for i in range(1, spline.NbKnots() + 1))
    return BCurve(spline.Degree(), poles, weights, knots, multiplicities)


def plane_curve_of(curve: Geom2d_Curve, first: float, last: float, to: Map) -> BCurve:
    """A stretch of a curve in a surface's parameters, in those of the model. Raises KernelRefused."""
    with kernel_call("turning a curve on a surface into a B-spline"):
        spline = Geom2dConvert.CurveToBSplineCurve_s(Geom2d_TrimmedCurve(curve, first, last))
        if spline.IsPeriodic():
            spline = Geom2d_BSplineCurve(spline)
            spline.SetNotPeriodic()
        count = spline.NbPoles()
        points = [(spline.Pole(i).X(), spline.Pole(i).Y()) for i in range(1, count + 1)]
        poles = tuple((to[0] * u + to[1] * v, to[2] * u + to[3] * v) for u, v in points)
        weights = tuple(spline.Weight(i) for i in range(1, count + 1)) if spline.IsRational() else ()
        knots = tuple(spline.Knot(i) for i in range(1, spline.NbKnots() + 1))
        multiplicities = tuple(spline.Multiplicity(i) for i in range(1, spline.NbKnots() + 1))
        return BCurve(spline.Degree(), poles, weights, knots, multiplicities)


def surface_of(surface: Geom_Surface, is_reversed: bool) -> Described:
    """A kernel surface; its side is chosen so that a face on it needs no turning where that is free.

    Args:
        is_reversed: whether the face on it is reversed in the kernel.

    Raises:
        KernelRefused: when it is of a kind that must be turned into a B-spline before.
    """
    while isinstance(surface, Geom_RectangularTrimmedSurface):
        surface = surface.BasisSurface()
    if isinstance(surface, Geom_BezierSurface):
        with kernel_call("turning a Bezier surface into a B-spline"):
            surface = GeomConvert.SurfaceToBSplineSurface_s(surface)
    if isinstance(surface, Geom_BSplineSurface):
        with kernel_call("describing a B-spline surface"):
            return _bsurface_of(surface, is_reversed)
    if isinstance(surface, Geom_Plane):
        return _plane_of(surface.Position(), is_reversed)
    with kernel_call(f"describing a surface ({type(surface).__name__})"):
        return _round_of(surface)


def _frame(frame: gp_Ax3) -> tuple[Vector, Vector, Vector, bool]:
    return (
        point_of(frame.Location()),
        direction_of(frame.Direction()),
        direction_of(frame.XDirection()),
        frame.Direct(),
    )


def _plane_of(frame: gp_Ax3, is_reversed: bool) -> Described:
    point, normal, x_axis, direct = _frame(frame)
    kernel_normal = normal if direct else _negated(normal)
    turned = is_reversed
    chosen = _negated(kernel_normal) if turned else kernel_normal
    y = frame.YDirection()
    own_y = (
        chosen[1] * x_axis[2] - chosen[2] * x_axis[1],
        chosen[2] * x_axis[0] - chosen[0] * x_axis[2],
        chosen[0] * x_axis[1] - chosen[1] * x_axis[0],
    )
    sign = 1.0 if own_y[0] * y.X() + own_y[1] * y.Y() + own_y[2] * y.Z() > 0 else -1.0
    return Described(Plane(point, chosen, x_axis), not turned, (1.0, 0.0, 0.0, sign))


def _round_of(surface: Geom_Surface) -> Described:
    assert isinstance(
        surface,
        Geom_CylindricalSurface | Geom_ConicalSurface | Geom_SphericalSurface | Geom_ToroidalSurface,
    )
    point, axis, x_axis, direct = _frame(surface.Position())
    turn = 1.0 if direct else -1.0
    made: Surface
    if isinstance(surface, Geom_CylindricalSurface):
        made = Cylinder(point, axis, x_axis, surface.Radius())
        return Described(made, direct, (turn, 0.0, 0.0, 1.0))
    if isinstance(surface, Geom_SphericalSurface):
        return Described(Sphere(point, axis, x_axis, surface.Radius()), direct, (turn, 0.0, 0.0, 1.0))
    if isinstance(surface, Geom_ToroidalSurface):
        made = Torus(point, axis, x_axis, surface.MajorRadius(), surface.MinorRadius())
        return Described(made, direct, (turn, 0.0, 0.0, 1.0))
    angle, radius = surface.SemiAngle(), surface.RefRadius()
    slope = math.cos(angle)
    if angle < 0:
        made = Cone(point, _negated(axis), x_axis, radius, -angle)
        return Described(made, direct, (-turn, 0.0, 0.0, -slope))
    return Described(Cone(point, axis, x_axis, radius, angle), direct, (turn, 0.0, 0.0, slope))


def _bsurface_of(given: Geom_BSplineSurface, is_reversed: bool) -> Described:
    spline = Geom_BSplineSurface(given)
    if spline.IsUPeriodic():
        spline.SetUNotPeriodic()
    if spline.IsVPeriodic():
        spline.SetVNotPeriodic()
    if is_reversed:
        spline.ExchangeUV()
    nu, nv = spline.NbUPoles(), spline.NbVPoles()
    poles = tuple(tuple(point_of(spline.Pole(i, j)) for j in range(1, nv + 1)) for i in range(1, nu + 1))
    rational = spline.IsURational() or spline.IsVRational()
    weights = tuple(
        tuple(spline.Weight(i, j) for j in range(1, nv + 1)) for i in range(1, nu + 1)
    ) if rational else ()  # fmt: skip
    made = BSurface(
        spline.UDegree(),
        spline.VDegree(),
        poles,
        weights,
        tuple(spline.UKnot(i) for i in range(1, spline.NbUKnots() + 1)),
        tuple(spline.UMultiplicity(i) for i in range(1, spline.NbUKnots() + 1)),
        tuple(spline.VKnot(i) for i in range(1, spline.NbVKnots() + 1)),
        tuple(spline.VMultiplicity(i) for i in range(1, spline.NbVKnots() + 1)),
    )
    exchanged = (0.0, 1.0, 1.0, 0.0) if is_reversed else (1.0, 0.0, 0.0, 1.0)
    return Described(made, not is_reversed, exchanged)
