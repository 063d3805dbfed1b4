"""Plain curves and surfaces as nodes.

Source: the published XT format reference, the part on geometry; see schema.py for what was checked.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from gondrel.core.formats.xt.builder import NodeBuilder
from gondrel.core.formats.xt.parameters import to_xt
from gondrel.core.formats.xt.schema import MM_PER_METRE
from gondrel.core.model.geometry import (
    BCurve,
    BSurface,
    Circle,
    Cone,
    Curve,
    Cylinder,
    Ellipse,
    Line,
    OnSurface,
    Plane,
    Sphere,
    Surface,
    Torus,
    Vector,
)

__all__ = ["add_curve", "add_on_surface", "add_surface"]

_UNSET = 1
"""Knot type and form of a B-curve or surface about which nothing is claimed."""


def _flat(poles: Sequence[Sequence[float]], weights: Sequence[float], scale: float) -> list[float]:
    """Pole after pole; with weights each multiplied by its own, which follows."""
    if not weights:
        return [value * scale for pole in poles for value in pole]
    return [
        part
        for pole, weight in zip(poles, weights, strict=True)
        for part in (*(value * scale * weight for value in pole), weight)
    ]


def add_nurbs_curve(make: NodeBuilder, curve: BCurve, scale: float = 1 / MM_PER_METRE) -> int:
    """The nodes of a B-curve's poles and knots."""
    size = len(curve.poles[0]) + bool(curve.weights)
    closed = math.dist(curve.poles[0], curve.poles[-1]) * scale < 1e-11
    return make.new(
        "NURBS_CURVE",
        degree=curve.degree,
        n_vertices=len(curve.poles),
        vertex_dim=size,
        n_knots=len(curve.knots),
        knot_type=_UNSET,
        periodic="F",
        closed="T" if closed else "F",
        rational="T" if curve.weights else "F",
        curve_form=_UNSET,
        bspline_vertices=make.new("BSPLINE_VERTICES", vertices=_flat(curve.poles, curve.weights, scale)),
        knot_mult=make.new("KNOT_MULT", mult=list(curve.multiplicities)),
        knots=make.new("KNOT_SET", knots=list(curve.knots)),
    )


def _sense(flipped: bool) -> str:
    return "-" if flipped else "+"


def add_curve(make: NodeBuilder, curve: Curve, owner: int) -> int:
    """The node of a curve. Raises TypeError for a kind that is never written."""
    common = {"owner": owner, "sense": _sense(curve.flipped)}
    if isinstance(curve, Line):
        return make.new("LINE", **common, pvec=curve.point, direction=curve.direction)
    if isinstance(curve, Circle):
        return make.new(
            "CIRCLE", **common, centre=curve.centre, normal=curve.normal, x_axis=curve.x_axis,
            radius=curve.radius,
        )  # fmt: skip
    if isinstance(curve, Ellipse):
        return make.new(
            "ELLIPSE", **common, centre=curve.centre, normal=curve.normal, x_axis=curve.x_axis,
            major_radius=curve.major, minor_radius=curve.minor,
        )  # fmt: skip
    if isinstance(curve, BCurve):
        return make.new("B_CURVE", **common, nurbs=add_nurbs_curve(make, curve))
    raise TypeError(f"a {type(curve).__name__} is not written")


def add_surface(make: NodeBuilder, surface: Surface, owner: int) -> int:
    """The node of a surface. Raises TypeError for a kind that is never written."""
    common = {"owner": owner, "sense": _sense(surface.flipped)}
    if isinstance(surface, Plane):
        return make.new("PLANE", **common, pvec=surface.point, normal=surface.normal, x_axis=surface.x_axis)
    if isinstance(surface, Cylinder):
        return make.new(
            "CYLINDER", **common, pvec=surface.point, axis=surface.axis, x_axis=surface.x_axis,
            radius=surface.radius,
        )  # fmt: skip
    if isinstance(surface, Cone):
        return make.new(
            "CONE", **common, pvec=surface.point, axis=surface.axis, x_axis=surface.x_axis,
            radius=surface.radius, sin_half_angle=math.sin(surface.half_angle),
            cos_half_angle=math.cos(surface.half_angle),
        )  # fmt: skip
    if isinstance(surface, Sphere):
        return make.new(
            "SPHERE", **common, centre=surface.centre, axis=surface.axis, x_axis=surface.x_axis,
            radius=surface.radius,
        )  # fmt: skip
    if isinstance(surface, Torus):
        return make.new(
            "TORUS", **common, centre=surface.centre, axis=surface.axis, x_axis=surface.x_axis,
            major_radius=surface.major, minor_radius=surface.minor,
        )  # fmt: skip
    if isinstance(surface, BSurface):
        return make.new("B_SURFACE", **common, nurbs=_nurbs_surface(make, surface))
    raise TypeError(f"a {type(surface).__name__} is not written")


def _nurbs_surface(make: NodeBuilder, surface: BSurface) -> int:
    poles: list[Vector] = [pole for row in surface.poles for pole in row]
    weights = [weight for row in surface.weights for weight in row]
    rows, columns = surface.poles, list(zip(*surface.poles, strict=True))
    return make.new(
        "NURBS_SURF",
        u_degree=surface.u_degree,
        v_degree=surface.v_degree,
        n_u_vertices=len(rows),
        n_v_vertices=len(columns),
        u_knot_type=_UNSET,
        v_knot_type=_UNSET,
        n_u_knots=len(surface.u_knots),
        n_v_knots=len(surface.v_knots),
        rational="T" if weights else "F",
        u_closed="T" if _meet(rows[0], rows[-1]) else "F",
        v_closed="T" if _meet(columns[0], columns[-1]) else "F",
        surface_form=_UNSET,
        vertex_dim=4 if weights else 3,
        bspline_vertices=make.new("BSPLINE_VERTICES", vertices=_flat(poles, weights, 1 / MM_PER_METRE)),
        u_knot_mult=make.new("KNOT_MULT", mult=list(surface.u_multiplicities)),
        v_knot_mult=make.new("KNOT_MULT", mult=list(surface.v_multiplicities)),
        u_knots=make.new("KNOT_SET", knots=list(surface.u_knots)),
        v_knots=make.new("KNOT_SET", knots=list(surface.v_knots)),
    )


def _meet(one: Sequence[Vector], other: Sequence[Vector]) -> bool:
    return all(math.dist(a, b) < 1e-8 for a, b in zip(one, other, strict=True))


def add_on_surface(
    make: NodeBuilder, curve: OnSurface, surface: int, owner: int, ends: tuple[Vector, Vector], gap: float
) -> list[int]:
    """The nodes of a fin's curve on a surface that is there already, the one the fin holds first.

    Args:
        ends: where the curve begins and ends, mm; gap: how far it may lie off its original, mm.
    """
    flat = make.new("B_CURVE", nurbs=add_nurbs_curve(make, to_xt(curve.curve, curve.surface), 1.0))
    laid = make.new("SP_CURVE", surface=surface, b_curve=flat)
    nodes = [laid, flat]
    if curve.original is not None:
        original = add_curve(make, curve.original, 0)
        make.set(laid, original=original, tolerance_to_original=gap)
        add_use(make, laid, original)
        nodes.append(original)
    trimmed = make.new(
        "TRIMMED_CURVE",
        owner=owner,
        basis_curve=laid,
        point_1=ends[0],
        point_2=ends[1],
        parm_1=curve.curve.knots[0],
        parm_2=curve.curve.knots[-1],
    )
    add_use(make, trimmed, laid)
    add_use(make, laid, flat)
    add_use(make, laid, surface)
    return [trimmed, *nodes]


def add_use(make: NodeBuilder, user: int, used: int) -> int:
    """Say that one piece of geometry uses another."""
    first = make.get(used, "geometric_owner")
    made = make.new("GEOMETRIC_OWNER", owner=user, shared_geometry=used, next=first)
    if first:
        make.set(first, previous=made)
    make.set(used, geometric_owner=made)
    return made
