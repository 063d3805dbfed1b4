"""Faces of one surface made one, splines split where they bend sharply, heavy splines made lighter."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from OCP.BRep import BRep_Tool
from OCP.Geom import Geom_BSplineCurve, Geom_BSplineSurface
from OCP.GeomAbs import GeomAbs_Shape
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeCustom import ShapeCustom, ShapeCustom_RestrictionParameters
from OCP.ShapeUpgrade import ShapeUpgrade_ShapeDivideContinuity, ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.calls import kernel_call
from gondrel.core.kernel.mending import Made, copied
from gondrel.core.kernel.shape import edges_of, faces_of, split_bodies

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
        beside: dict[int, list[int]] = {}
        for place, face in enumerate(faces):
            for edge in edges_of(face):
                beside.setdefault(order.FindIndex(edge), []).append(place)
        for key, places in beside.items():
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


def lighten_splines(shape: TopoDS_Shape, degree: int, poles: int, tolerance: float) -> Made:
    """A body whose splines have at most a degree and so many poles where that keeps them in place.

    Args:
        tolerance: how far a lighter spline may lie off the old one, mm.

    Raises:
        KernelRefused: when they stay as heavy as they were, or the kernel fails.
    """
    with kernel_call("making splines lighter"):
        spans = max(poles - degree, 2)
        made = ShapeCustom.BSplineRestriction_s(
            copied(shape), tolerance, _FLAT, degree, spans, GeomAbs_Shape.GeomAbs_C1,
            GeomAbs_Shape.GeomAbs_C1, True, False, ShapeCustom_RestrictionParameters(),
        )  # fmt: skip
        if _heaviest(made) > max(degree, 1):
            raise KernelRefused("no lighter spline lies within the tolerance")
        return list(split_bodies(made))


def _heaviest(shape: TopoDS_Shape) -> int:
    """The highest degree of a spline in a body."""
    found = [0]
    for face in faces_of(shape):
        surface = BRep_Tool.Surface_s(face)
        if isinstance(surface, Geom_BSplineSurface):
            found.append(max(surface.UDegree(), surface.VDegree()))
    for edge in edges_of(shape):
        curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
        if isinstance(curve, Geom_BSplineCurve):
            found.append(curve.Degree())
    return max(found)
