"""A body about its main axis, for telling standard parts by their dimensions."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType as Surfaces
from OCP.GeomAdaptor import GeomAdaptor_Surface
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_Orientation, TopAbs_State
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of
from gondrel.core.kernel.geometry.analytic import surface_as_seen
from gondrel.core.kernel.measure.mass import area_of
from gondrel.core.model.axial import Axial, Flat, Round

__all__ = ["about_axis", "bar_axis"]

Floats = NDArray[np.float64]
_Surface: TypeAlias = BRepAdaptor_Surface | GeomAdaptor_Surface

_MOST_FACES = 60
_PARALLEL = 1e-6


def about_axis(shape: TopoDS_Shape) -> Axial | None:
    """A body about the axis that most of its round faces share, by area; None of one without round faces or
    of more than 60 faces, which is no standard part. Raises KernelRefused."""
    with kernel_call("looking along a body's axis"):
        faces = faces_of(shape)
        if len(faces) > _MOST_FACES:
            return None
        surfaces = [BRepAdaptor_Surface(face, True) for face in faces]
        axis = _main_axis(faces, surfaces)
        return None if axis is None else _Frame(*axis).described(faces, surfaces)


def bar_axis(shape: TopoDS_Shape) -> tuple[tuple[float, float, float], bool] | None:
    """The direction of the axis that most round faces of a body share, by area, and whether it is a bar:
    turned for the most part, longer than wide, and full in its middle. None without round faces, or of a
    body of more than 400 faces. Raises KernelRefused."""
    with kernel_call("looking along a body's axis"):
        faces = faces_of(shape)
        if len(faces) > _MOST_OF_A_BAR:
            return None
        surfaces = [surface_as_seen(face) for face in faces]
        axis = _main_axis(faces, surfaces)
        if axis is None:
            return None
        frame = _Frame(*axis)
        x, y, z = (float(v) for v in frame.way)
        round_area = whole = width = 0.0
        spans = [frame.span(face) for face in faces]
        low, high = min(a for a, _ in spans), max(b for _, b in spans)
        for face, surface in zip(faces, surfaces, strict=True):
            area = abs(area_of(face))
            whole += area
            if surface.GetType() in (Surfaces.GeomAbs_Cylinder, Surfaces.GeomAbs_Cone):
                at, way = _axis_of(surface)
                off = np.linalg.norm(np.cross(at - frame.at, frame.way))
                if abs(way @ frame.way) > 1 - _PARALLEL and off < _ON_AXIS:
                    round_area += area
                    width = max(width, 2 * _radii(face, surface)[0])
        middle = frame.at + frame.way * (low + high) / 2
        classifier = BRepClass3d_SolidClassifier(shape)
        classifier.Perform(gp_Pnt(*middle.tolist()), _ON_AXIS)
        is_full = classifier.State() == TopAbs_State.TopAbs_IN
        return (x, y, z), is_full and round_area > whole / 2 and high - low > width


_MOST_OF_A_BAR, _ON_AXIS = 400, 1e-4


def _main_axis(faces: list[TopoDS_Face], surfaces: Sequence[_Surface]) -> tuple[Floats, Floats] | None:
    """A point of it and its direction."""
    weights: defaultdict[tuple[float, ...], float] = defaultdict(float)
    axes: dict[tuple[float, ...], tuple[Floats, Floats]] = {}
    for face, surface in zip(faces, surfaces, strict=True):
        if surface.GetType() not in (Surfaces.GeomAbs_Cylinder, Surfaces.GeomAbs_Cone):
            continue
        at, way = _axis_of(surface)
        way = way if tuple(np.round(way, 6)) > tuple(np.round(-way, 6)) else -way
        foot = at - (at @ way) * way
        key = (*np.round(way, 5) + 0.0, *np.round(foot, 4) + 0.0)
        weights[key] += abs(area_of(face))
        axes[key] = (at, way)
    return axes[max(weights, key=lambda k: weights[k])] if weights else None


def _axis_of(surface: _Surface) -> tuple[Floats, Floats]:
    is_cylinder = surface.GetType() == Surfaces.GeomAbs_Cylinder
    axis = (surface.Cylinder() if is_cylinder else surface.Cone()).Axis()
    return np.array(axis.Location().Coord()), np.array(axis.Direction().Coord())


class _Frame:
    """An axis with two directions across it."""

    def __init__(self, at: Floats, way: Floats) -> None:
        self.at, self.way = at, way
        x = np.cross(way, np.eye(3)[int(np.argmin(np.abs(way)))])
        self.x = x / np.linalg.norm(x)
        self.y = np.cross(way, self.x)

    def described(self, faces: list[TopoDS_Face], surfaces: Sequence[_Surface]) -> Axial:
        rounds, flats, across, others = [], [], [], 0
        spans = [self.span(face) for face in faces]
        base = min(low for low, _ in spans)
        for face, surface, (low, high) in zip(faces, surfaces, spans, strict=True):
            kind = surface.GetType()
            turned = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
            if kind in (Surfaces.GeomAbs_Cylinder, Surfaces.GeomAbs_Cone):
                at, way = _axis_of(surface)
                if np.linalg.norm(np.cross(way, self.way)) > _PARALLEL:
                    others += 1
                    continue
                off = at - self.at
                offset = float(np.linalg.norm(off - (off @ self.way) * self.way))
                wide, narrow, direct = _radii(face, surface)
                rounds.append(Round(offset, wide, narrow, low - base, high - base, direct != turned))
            elif kind == Surfaces.GeomAbs_Plane:
                plane = surface.Plane()
                normal = np.array(plane.Axis().Direction().Coord()) * (1 if plane.Direct() else -1)
                normal = -normal if turned else normal
                along = float(normal @ self.way)
                where = np.array(plane.Location().Coord()) - self.at
                if abs(along) > 1 - _PARALLEL:
                    across.append((float(where @ self.way) - base, along > 0))
                elif abs(along) < _PARALLEL:
                    angle = math.atan2(float(normal @ self.y), float(normal @ self.x)) % (2 * math.pi)
                    flats.append(Flat(float(where @ normal), angle, low - base, high - base))
                else:
                    others += 1
            else:
                others += 1
        length = max(high for _, high in spans) - base
        return Axial(length, tuple(rounds), tuple(flats), tuple(across), others)

    def span(self, face: TopoDS_Face) -> tuple[float, float]:
        """From where to where a face reaches along the axis, by points of its edges."""
        places = []
        for edge in edges_of(face):
            curve = BRepAdaptor_Curve(edge)
            first, last = curve.FirstParameter(), curve.LastParameter()
            for share in (0.0, 0.25, 0.5, 0.75, 1.0):
                point = np.array(curve.Value(first + share * (last - first)).Coord())
                places.append(float((point - self.at) @ self.way))
        return (min(places), max(places)) if places else (0.0, 0.0)


def _radii(face: TopoDS_Face, surface: _Surface) -> tuple[float, float, bool]:
    """The wider and the narrower radius of a round face, and whether its surface's normal leads away from
    its axis."""
    if surface.GetType() == Surfaces.GeomAbs_Cylinder:
        cylinder = surface.Cylinder()
        return cylinder.Radius(), cylinder.Radius(), cylinder.Direct()
    cone = surface.Cone()
    _, _, v0, v1 = BRepTools.UVBounds_s(face)
    ends = [abs(cone.RefRadius() + v * math.sin(cone.SemiAngle())) for v in (v0, v1)]
    return max(ends), min(ends), cone.Direct()
