"""Bodies of flat regions: sheets, extrusions with or without a draft, revolutions. Lengths in mm."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_Transform,
)
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeWire as MakeWire
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.Geom import Geom_BSplineCurve, Geom_Circle, Geom_Curve, Geom_Ellipse, Geom_Line
from OCP.gp import gp_Ax1, gp_Ax2, gp_Circ, gp_Dir, gp_Elips, gp_Pln, gp_Pnt, gp_Trsf, gp_Vec
from OCP.OCP.collections import Array1_double, Array1_gp_Pnt, Array1_int
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape, TopoDS_Vertex

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.measure.flat_faces import face_frame
from gondrel.core.kernel.measure.mass import exact_area_of
from gondrel.core.model.outline import Arc, Curve, FlatEllipse, FlatLine, Point, Spline
from gondrel.core.model.profile import Profile, Region

__all__ = ["extruded", "region_face", "revolved"]

_ALIKE = 1e-6
"""Share by which the kernel's area of a face may differ from the region's own."""
_FLAT = gp_Dir(0, 0, 1)


def region_face(profile: Profile, region: Region) -> TopoDS_Face:
    """The flat face of a region, in the xy plane, its normal along z.

    Raises:
        KernelRefused: when the kernel makes no valid face of it, or one of another area.
    """
    with kernel_call("making a face of a region"):
        vertices = [BRepBuilderAPI_MakeVertex(_at(node)).Vertex() for node in profile.nodes]
        made: TopoDS_Face | None = None
        for loop in region.loops:
            wire = MakeWire()
            for number, back in loop.curves:
                edge = _edge(profile.curves[number], profile.ends[number], vertices)
                wire.Add(TopoDS.Edge(edge.Reversed()) if back else edge)
            if not wire.IsDone():
                raise KernelRefused("the outline of a region does not close")
            if made is None:
                maker = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), _FLAT), wire.Wire(), True)
            else:
                maker = BRepBuilderAPI_MakeFace(made, wire.Wire())
            made = maker.Face()
        assert made is not None
        area = exact_area_of(made)
        if not BRepCheck_Analyzer(made).IsValid() or abs(area - region.area) > _ALIKE * region.area:
            raise KernelRefused(
                f"a region makes no sound face: its outline says {region.area:.9g} mm2, the face has "
                f"{area:.9g}", hint="look for places where it crosses itself",
            )  # fmt: skip
        return made


def _at(point: Point) -> gp_Pnt:
    return gp_Pnt(point[0], point[1], 0.0)


def _edge(curve: Curve, ends: tuple[int, int], vertices: Sequence[TopoDS_Vertex]) -> TopoDS_Edge:
    geometry, first, last = _geometry(curve)
    if ends == (-1, -1):
        maker = BRepBuilderAPI_MakeEdge(geometry, first, last)
    else:
        maker = BRepBuilderAPI_MakeEdge(geometry, vertices[ends[0]], vertices[ends[1]], first, last)
    if not maker.IsDone():
        raise KernelRefused(f"a curve makes no edge ({maker.Error().name})")
    return maker.Edge()


def _geometry(curve: Curve) -> tuple[Geom_Curve, float, float]:
    if isinstance(curve, FlatLine):
        way = gp_Vec(_at(curve.start), _at(curve.end))
        return Geom_Line(_at(curve.start), gp_Dir(way)), 0.0, way.Magnitude()
    if isinstance(curve, Arc):
        frame = gp_Ax2(_at(curve.centre), _FLAT, gp_Dir(1, 0, 0))
        return Geom_Circle(gp_Circ(frame, curve.radius)), curve.start, curve.end
    if isinstance(curve, FlatEllipse):
        frame = gp_Ax2(_at(curve.centre), _FLAT, gp_Dir(curve.major[0], curve.major[1], 0))
        wide = math.hypot(*curve.major)
        return Geom_Ellipse(gp_Elips(frame, wide, wide * curve.ratio)), curve.start, curve.end
    assert isinstance(curve, Spline)
    knots, repeats = np.unique(curve.knots, return_counts=True)
    poles = Array1_gp_Pnt(1, len(curve.poles))
    for place, pole in enumerate(curve.poles, 1):
        poles.SetValue(place, _at(pole))
    values, counts = Array1_double(1, len(knots)), Array1_int(1, len(knots))
    for place, (knot, count) in enumerate(zip(knots.tolist(), repeats.tolist(), strict=True), 1):
        values.SetValue(place, knot)
        counts.SetValue(place, count)
    if not curve.weights:
        made = Geom_BSplineCurve(poles, values, counts, curve.degree, False)
    else:
        weights = Array1_double(1, len(curve.weights))
        for place, weight in enumerate(curve.weights, 1):
            weights.SetValue(place, weight)
        made = Geom_BSplineCurve(poles, weights, values, counts, curve.degree, False)
    return made, curve.knots[0], curve.knots[-1]


def extruded(face: TopoDS_Face, depth: float, *, both: bool = False, draft: float = 0.0) -> TopoDS_Shape:
    """A flat face raised along z.

    Args:
        depth: mm, downwards where it is negative; both: half of it to each side.
        draft: rad; walls lean inwards by it away from the face, from the middle where both sides are
            raised.

    Raises:
        KernelRefused: when it has no depth, or walls can't lean so far.
    """
    if not depth:
        raise KernelRefused("an extrusion without depth is none")
    with kernel_call("extruding a region"):
        if both and draft:
            halves = [_leaning(face, half, draft) for half in (depth / 2, -depth / 2)]
            fused = BRepAlgoAPI_Fuse(halves[0], halves[1])
            fused.SimplifyResult()
            return fused.Shape()
        base = face
        if both:
            down = gp_Trsf()
            down.SetTranslation(gp_Vec(0, 0, -depth / 2))
            base = BRepBuilderAPI_Transform(face, down, True).Shape()  # type: ignore[assignment]
        if draft:
            return _leaning(face, depth, draft)
        return BRepPrimAPI_MakePrism(base, gp_Vec(0, 0, depth)).Shape()


def _leaning(face: TopoDS_Face, depth: float, draft: float) -> TopoDS_Shape:
    solid = BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, depth)).Shape()
    maker = BRepOffsetAPI_DraftAngle(solid)
    away = gp_Dir(0, 0, math.copysign(1.0, depth))
    for wall in faces_of(solid):
        frame = face_frame(wall)
        if frame is None or abs(float(np.cross(frame[1], frame[2])[2])) < 1 - _ALIKE:
            maker.Add(wall, away, draft, gp_Pln(gp_Pnt(0, 0, 0), _FLAT))
            if not maker.AddDone():
                raise KernelRefused("a wall of an extrusion can't lean", hint="a smaller draft angle")
    maker.Build()
    if not maker.IsDone() or not BRepCheck_Analyzer(maker.Shape()).IsValid():
        raise KernelRefused("the walls of an extrusion can't lean so far", hint="a smaller draft angle")
    return maker.Shape()


def revolved(face: TopoDS_Face, angle: float, origin: Point, along: Point) -> TopoDS_Shape:
    """A flat face turned about an axis in its plane.

    Args:
        angle: rad; a whole turn where it is 2 pi or more. origin, along: of the axis, mm.

    Raises:
        KernelRefused: when the angle is none, or the axis has no direction.
    """
    if math.hypot(*along) < _ALIKE or not angle:
        raise KernelRefused("a revolution wants an axis with a direction, and an angle")
    with kernel_call("turning a region"):
        axis = gp_Ax1(_at(origin), gp_Dir(along[0], along[1], 0))
        if abs(angle) >= 2 * math.pi - 1e-12:
            return BRepPrimAPI_MakeRevol(face, axis).Shape()
        return BRepPrimAPI_MakeRevol(face, axis, angle).Shape()
