"""Faces of one surface made one, splines split where they bend sharply, heavy splines made lighter."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import replace

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.Geom import Geom_BSplineCurve, Geom_BSplineSurface
from OCP.GeomAbs import GeomAbs_Shape
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeCustom import ShapeCustom, ShapeCustom_RestrictionParameters
from OCP.ShapeUpgrade import ShapeUpgrade_ShapeDivideContinuity, ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of, split_bodies
from gondrel.core.kernel.convert.geometry_out import curve_of
from gondrel.core.kernel.geometry.basis import basis_of
from gondrel.core.kernel.geometry.splines import spline_in
from gondrel.core.kernel.repair.shells import Made, copied
from gondrel.core.model.geometry import BCurve

__all__ = ["lighten_splines", "merge_faces", "split_at_kinks"]

_SAME_ANGLE = 1e-6
_FLAT = 1e-6


def merge_faces(
    shape: TopoDS_Shape,
    looks: Mapping[int, object],
    tolerance: float,
    only: Collection[int] | None = None,
) -> Made:
    """A body with neighbouring faces that lie on the same surface made one, and their edges likewise.

    Args:
        looks: what faces (by index) look like; faces of different looks stay apart.
        tolerance: how far surfaces may lie off one another and still be the same, mm.
        only: faces (by index) that are merged with their neighbours; none for all.

    Raises:
        KernelRefused: when nothing can be merged, or the kernel fails.
    """
    with kernel_call("merging faces"):
        made = copied(shape)
        faces = faces_of(made)
        tool = ShapeUpgrade_UnifySameDomain(made, True, True, False)
        tool.SetLinearTolerance(tolerance)
        tool.SetAngularTolerance(_SAME_ANGLE)
        order = ShapeMap()
        TopExp.MapShapes_s(made, TopAbs_ShapeEnum.TopAbs_EDGE, order)
        faces_at: dict[int, list[int]] = {}
        for place, face in enumerate(faces):
            for edge in edges_of(face):
                faces_at.setdefault(order.FindIndex(edge), []).append(place)
        for key, places in faces_at.items():
            is_wanted = only is None or bool(set(places) & set(only))
            if not is_wanted or len({looks.get(place) for place in places}) > 1:
                tool.KeepShape(order.FindKey(key))
        tool.Build()
        merged = tool.Shape()
        if len(faces_of(merged)) == len(faces):
            raise KernelRefused("no neighbouring faces lie on the same surface")
        return list(split_bodies(merged))


def split_at_kinks(shape: TopoDS_Shape) -> Made:
    """A body whose spline curves and surfaces are split where they bend sharply; nothing moves.

    Raises:
        KernelRefused: when the kernel fails over it.
    """
    with kernel_call("splitting at kinks"):
        tool = ShapeUpgrade_ShapeDivideContinuity(copied(shape))
        tool.SetBoundaryCriterion(GeomAbs_Shape.GeomAbs_C1)
        tool.SetSurfaceCriterion(GeomAbs_Shape.GeomAbs_C1)
        tool.Perform()
        return list(split_bodies(tool.Result()))


def lighten_splines(shape: TopoDS_Shape, degree: int, poles: int, crowded: float, tolerance: float) -> Made:
    """A body whose splines have at most a degree, so many poles and no crowded knots, where that keeps
    them in place.

    Args:
        crowded: share of the range below which knots are too close; one of the two is removed.
        tolerance: how far a lighter spline may lie off the old one, mm.

    Raises:
        KernelRefused: when they stay as heavy as they were, or the kernel fails.
    """
    with kernel_call("making splines lighter"):
        made = copied(shape)
        thinned = sum(_thin_knots(s, crowded, tolerance) for s in _surfaces(made))
        thinned += _collapse_knots(made, crowded, tolerance)
        if _is_heavier(made, degree, poles):
            made = ShapeCustom.BSplineRestriction_s(
                made, tolerance, _FLAT, min(degree, _DEGREE), max(poles - degree, 2),
                GeomAbs_Shape.GeomAbs_C1, GeomAbs_Shape.GeomAbs_C1, True, False,
                ShapeCustom_RestrictionParameters(),
            )  # fmt: skip
            if _is_heavier(made, degree, poles):
                raise KernelRefused("no lighter spline lies within the tolerance")
        elif not thinned:
            raise KernelRefused("no knot can be removed within the tolerance")
        return list(split_bodies(made))


_DEGREE = 8
"""Degree of the lighter splines at most; common practice among modellers, without a source."""


def _surfaces(shape: TopoDS_Shape) -> list[Geom_BSplineSurface]:
    surfaces = [basis_of(BRep_Tool.Surface_s(face)) for face in faces_of(shape)]
    return [surface for surface in surfaces if isinstance(surface, Geom_BSplineSurface)]


def _curves(shape: TopoDS_Shape) -> list[tuple[TopoDS_Edge, Geom_BSplineCurve]]:
    curves = [(edge, BRep_Tool.Curve_s(edge, 0.0, 0.0)) for edge in edges_of(shape)]
    return [(edge, curve) for edge, curve in curves if isinstance(curve, Geom_BSplineCurve)]


def _is_heavier(shape: TopoDS_Shape, degree: int, poles: int) -> bool:
    highest, most = _heaviest(shape)
    return highest > degree or most > poles


def _heaviest(shape: TopoDS_Shape) -> tuple[int, int]:
    """The highest degree of a spline in a body, and the most poles in one direction."""
    sizes = [(curve.Degree(), curve.NbPoles()) for _, curve in _curves(shape)]
    for surface in _surfaces(shape):
        sizes += [
            (surface.UDegree(), surface.NbUPoles()),
            (surface.VDegree(), surface.NbVPoles()),
        ]
    return max((d for d, _ in sizes), default=0), max((p for _, p in sizes), default=0)


def _collapse_knots(shape: TopoDS_Shape, crowded: float, tolerance: float) -> int:
    """Make one knot of two that are crowded, in the curves of edges; how many went.

    The poles stay, so the curve moves by no more than the knots' distance allows.
    """
    gone = 0
    for edge, curve in _curves(shape):
        plain = curve_of(curve, curve.FirstParameter(), curve.LastParameter())
        if not isinstance(plain, BCurve):
            continue
        knots, many = [plain.knots[0]], [plain.multiplicities[0]]
        span = plain.knots[-1] - plain.knots[0]
        for knot, times in zip(plain.knots[1:], plain.multiplicities[1:], strict=True):
            inner = len(knots) > 1 and knot < plain.knots[-1]
            if inner and knot - knots[-1] < crowded * span and many[-1] + times <= plain.degree:
                many[-1] += times
            else:
                knots.append(knot)
                many.append(times)
        if len(knots) < len(plain.knots):
            made = spline_in(replace(plain, knots=tuple(knots), multiplicities=tuple(many)))
            BRep_Builder().UpdateEdge(edge, made, max(BRep_Tool.Tolerance_s(edge), tolerance / 10))
            gone += len(plain.knots) - len(knots)
    return gone


def _thin_knots(surface: Geom_BSplineSurface, crowded: float, tolerance: float) -> int:
    """Remove inner knots too close to their neighbour, in place; how many went."""
    gone = 0
    ways = ((surface.UKnots, surface.RemoveUKnot), (surface.VKnots, surface.RemoveVKnot))
    for knots, remove in ways:
        at = 2
        while True:
            values = [float(v) for v in knots()]
            if at > len(values) - 1:
                break
            near = min(values[at - 1] - values[at - 2], values[at] - values[at - 1])
            if near < crowded * (values[-1] - values[0]) and remove(at, 0, tolerance):
                gone += 1
            else:
                at += 1
    return gone
