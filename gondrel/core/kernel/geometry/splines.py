"""B-splines of the kernel from plain values."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from OCP.Geom import Geom_BSplineCurve, Geom_BSplineSurface
from OCP.Geom2d import Geom2d_BSplineCurve
from OCP.gp import gp_Pnt, gp_Pnt2d
from OCP.OCP.collections import (
    Array1_double,
    Array1_gp_Pnt,
    Array1_gp_Pnt2d,
    Array1_int,
    Array2_double,
    Array2_gp_Pnt,
)

from gondrel.core.errors import KernelRefused
from gondrel.core.model.geometry import BCurve, BSurface

__all__ = ["bsurface_in", "pcurve_in", "spline_in"]


def _reals(values: Sequence[float]) -> Array1_double:
    made = Array1_double(1, len(values))
    for place, value in enumerate(values, 1):
        made.SetValue(place, value)
    return made


def _whole(values: Sequence[int]) -> Array1_int:
    made = Array1_int(1, len(values))
    for place, value in enumerate(values, 1):
        made.SetValue(place, value)
    return made


def check_knots(
    degree: int, poles: int, knots: Sequence[float], multiplicities: Sequence[int], what: str
) -> None:
    """Refuse what the kernel would die of. Raises KernelRefused."""
    if not 1 <= degree <= 25:
        raise KernelRefused(f"{what} is of degree {degree}; degrees from 1 to 25 are read")
    if len(knots) != len(multiplicities) or len(knots) < 2 or poles < 2:
        raise KernelRefused(
            f"{what} has {len(knots)} knots, {len(multiplicities)} multiplicities, {poles} poles"
        )
    if any(b <= a for a, b in itertools.pairwise(knots)):
        raise KernelRefused(f"the knots of {what} do not ascend")
    if min(multiplicities) < 1 or max(multiplicities) > degree + 1:
        raise KernelRefused(f"a knot of {what} has the multiplicity {max(multiplicities)}")
    if sum(multiplicities) != poles + degree + 1:
        raise KernelRefused(
            f"{what} has {poles} poles; its knots ask for {sum(multiplicities) - degree - 1}"
        )


def _domain(degree: int, knots: Sequence[float], multiplicities: Sequence[int]) -> tuple[float, float]:
    """Where a spline is defined: from the knot of index degree to that of index poles, counted singly."""
    flat = [k for k, m in zip(knots, multiplicities, strict=True) for _ in range(m)]
    return flat[degree], flat[len(flat) - degree - 1]


def spline_in(curve: BCurve) -> Geom_BSplineCurve:
    """A B-spline curve in space, flips not applied. Raises KernelRefused when it makes no sense."""
    check_knots(curve.degree, len(curve.poles), curve.knots, curve.multiplicities, "a B-curve")
    poles = Array1_gp_Pnt(1, len(curve.poles))
    for place, pole in enumerate(curve.poles, 1):
        poles.SetValue(place, gp_Pnt(*pole[:3]))
    rest = (_reals(curve.knots), _whole(curve.multiplicities), curve.degree)
    if curve.weights:
        made = Geom_BSplineCurve(poles, _reals(curve.weights), *rest, False)
    else:
        made = Geom_BSplineCurve(poles, *rest, False)
    first, last = _domain(curve.degree, curve.knots, curve.multiplicities)
    if (first, last) != (curve.knots[0], curve.knots[-1]):
        made.Segment(first, last)
    return made


def pcurve_in(curve: BCurve, scale: tuple[float, float, float, float]) -> Geom2d_BSplineCurve:
    """A B-spline curve in a surface's parameters.

    Args:
        scale: rows of a 2x2 matrix from the given parameters to the kernel's.
    """
    check_knots(curve.degree, len(curve.poles), curve.knots, curve.multiplicities, "a curve on a surface")
    poles = Array1_gp_Pnt2d(1, len(curve.poles))
    for place, (u, v, *_) in enumerate(curve.poles, 1):
        poles.SetValue(place, gp_Pnt2d(scale[0] * u + scale[1] * v, scale[2] * u + scale[3] * v))
    rest = (_reals(curve.knots), _whole(curve.multiplicities), curve.degree)
    if curve.weights:
        return Geom2d_BSplineCurve(poles, _reals(curve.weights), *rest, False)
    return Geom2d_BSplineCurve(poles, *rest, False)


def bsurface_in(surface: BSurface) -> Geom_BSplineSurface:
    """A B-spline surface; a closed one is made periodic. Raises KernelRefused when it makes no sense."""
    rows, columns = len(surface.poles), len(surface.poles[0]) if surface.poles else 0
    check_knots(surface.u_degree, rows, surface.u_knots, surface.u_multiplicities, "a B-surface along u")
    check_knots(surface.v_degree, columns, surface.v_knots, surface.v_multiplicities, "a B-surface along v")
    poles = Array2_gp_Pnt(1, rows, 1, columns)
    for i, row in enumerate(surface.poles, 1):
        for j, pole in enumerate(row, 1):
            poles.SetValue(i, j, gp_Pnt(*pole))
    rest = (
        _reals(surface.u_knots), _reals(surface.v_knots), _whole(surface.u_multiplicities),
        _whole(surface.v_multiplicities), surface.u_degree, surface.v_degree, False, False,
    )  # fmt: skip
    if surface.weights:
        weights = Array2_double(1, rows, 1, columns)
        for i, line in enumerate(surface.weights, 1):
            for j, weight in enumerate(line, 1):
                weights.SetValue(i, j, weight)
        made = Geom_BSplineSurface(poles, weights, *rest)
    else:
        made = Geom_BSplineSurface(poles, *rest)
    u = _domain(surface.u_degree, surface.u_knots, surface.u_multiplicities)
    v = _domain(surface.v_degree, surface.v_knots, surface.v_multiplicities)
    whole = (surface.u_knots[0], surface.u_knots[-1]), (surface.v_knots[0], surface.v_knots[-1])
    if (u, v) != whole:
        made.Segment(*u, *v)
    if made.IsUClosed():
        made.SetUPeriodic()
    if made.IsVClosed():
        made.SetVPeriodic()
    return made
