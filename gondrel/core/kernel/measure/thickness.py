"""How thick the walls of a solid are: from places on its skin straight through to the other side."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt, gp_Pnt2d
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.IntTools import IntTools_FClass2d
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.geometry.normals import normal_at, outward_at
from gondrel.core.model.geometry import Vector, vector_of
from gondrel.core.model.measures import Thickness

__all__ = ["thickness_at", "thickness_map", "thinnest"]

Floats = NDArray[np.float64]

_START = 1e-6
"""A ray starts so far within the skin, mm, that it does not meet the face it starts from."""

_LEANS = math.cos(math.radians(30.0))
_GRID = 5
_FACES = 3000
_HALVINGS = 40
_REFINED = 12


class _Skin:
    """The faces of a solid, and rays into it."""

    def __init__(self, solid: TopoDS_Shape) -> None:
        self.faces = faces_of(solid)
        self.rays = IntCurvesFace_ShapeIntersector()
        self.rays.Load(solid, 1e-9)

    def wall(self, face: TopoDS_Face, u: float, v: float) -> tuple[float, Floats, Floats] | None:
        """Through the wall at a place of a face: how far, from where, to where; None where nothing is met,
        the surface has no normal, or the other side leans by more than 30 degrees: that is an edge."""
        place = outward_at(face, u, v)
        return None if place is None else self.through(place[0], -place[1])

    def through(self, at: Floats, inward: Floats) -> tuple[float, Floats, Floats] | None:
        """From a point of the skin along a direction to where the material ends, as `wall`."""
        line = gp_Lin(gp_Pnt(*at.tolist()), gp_Dir(*inward.tolist()))
        self.rays.PerformNearest(line, _START, 1e9)
        if not self.rays.IsDone() or not self.rays.NbPnt():
            return None
        far = float(self.rays.WParameter(1))
        surface = BRepAdaptor_Surface(self.rays.Face(1), False)
        out = normal_at(surface, self.rays.UParameter(1), self.rays.VParameter(1))
        if out is None or abs(float(out[1] @ inward)) < _LEANS:
            return None
        return far, at, at + far * inward


def thickness_at(solid: TopoDS_Shape, face: int, point: Vector) -> Thickness:
    """The wall at a point of a face, along its normal there, mm. Raises KernelRefused."""
    with kernel_call("measuring a wall"):
        skin = _Skin(solid)
        if not 0 <= face < len(skin.faces):
            raise KernelRefused("the body has no such face")
        u, v = _place(skin.faces[face], np.asarray(point, float))
        met = skin.wall(skin.faces[face], u, v)
    if met is None:
        return Thickness(None, (point, point), 0)
    return Thickness(met[0], (vector_of(met[1]), vector_of(met[2])), 1)


def thinnest(solid: TopoDS_Shape) -> Thickness:
    """The thinnest place of a solid's walls, measured along the normals of its faces, mm.

    Places lie in a grid of 5 by 5 on each face, on fewer where there are more than 3000 faces; from the
    thinnest of them it is gone downhill until a step is a 10^12th of the face.

    Raises:
        KernelRefused: when the kernel fails over it.
    """
    with kernel_call("measuring walls"):
        skin = _Skin(solid)
        grid = _GRID if len(skin.faces) <= _FACES else 2
        met = [
            (wall[0], number, u, v)
            for number, face in enumerate(skin.faces)
            for u, v in _places(face, grid)
            if (wall := skin.wall(face, u, v)) is not None
        ]
        if not met:
            return Thickness(None, ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0)), 0)
        seen: set[int] = set()
        best = None
        for _, number, u, v in sorted(met):
            if number in seen:
                continue
            seen.add(number)
            refined = _downhill(skin, number, u, v)
            if best is None or refined[0] < best[0]:
                best = refined
            if len(seen) >= _REFINED:
                break
        assert best is not None
        return Thickness(best[0], (vector_of(best[1]), vector_of(best[2])), len(met))


def thickness_map(solid: TopoDS_Shape, points: Floats, faces: Sequence[int]) -> Floats:
    """The wall at each of some points of a solid's skin, mm; not a number where none was met.

    Args:
        points: (n, 3) mm, near their faces; faces: (n,) which face each lies on.

    Raises:
        KernelRefused: when the kernel fails over it.
    """
    walls = np.full(len(points), np.nan)
    with kernel_call("measuring walls"):
        skin = _Skin(solid)
        surfaces: dict[int, ShapeAnalysis_Surface] = {}
        for place, (point, number) in enumerate(zip(points, faces, strict=True)):
            face = skin.faces[number]
            if number not in surfaces:
                surfaces[number] = ShapeAnalysis_Surface(BRep_Tool.Surface_s(face))
            spot = surfaces[number].ValueOfUV(gp_Pnt(*point.tolist()), 1e-7)
            met = skin.wall(face, spot.X(), spot.Y())
            if met is not None:
                walls[place] = met[0]
    return walls


def _place(face: TopoDS_Face, point: Floats) -> tuple[float, float]:
    spot = ShapeAnalysis_Surface(BRep_Tool.Surface_s(face)).ValueOfUV(gp_Pnt(*point.tolist()), 1e-7)
    return spot.X(), spot.Y()


def _places(face: TopoDS_Face, grid: int) -> Iterator[tuple[float, float]]:
    """Places within the loops of a face."""
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    inside = IntTools_FClass2d(face, 1e-7)
    shares = (np.arange(grid) + 0.5) / grid
    for a in shares.tolist():
        for b in shares.tolist():
            u, v = u0 + a * (u1 - u0), v0 + b * (v1 - v0)
            if inside.Perform(gp_Pnt2d(u, v)) == TopAbs_State.TopAbs_IN:
                yield u, v


def _downhill(skin: _Skin, number: int, u: float, v: float) -> tuple[float, Floats, Floats]:
    """The thinnest place reached from one of a face by steps along it that are halved where none helps."""
    face = skin.faces[number]
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    inside = IntTools_FClass2d(face, 1e-7)
    best = skin.wall(face, u, v)
    assert best is not None
    step_u, step_v = (u1 - u0) / (2 * _GRID), (v1 - v0) / (2 * _GRID)
    for _ in range(_HALVINGS):
        moved = False
        for du, dv in ((step_u, 0.0), (-step_u, 0.0), (0.0, step_v), (0.0, -step_v)):
            if inside.Perform(gp_Pnt2d(u + du, v + dv)) != TopAbs_State.TopAbs_IN:
                continue
            met = skin.wall(face, u + du, v + dv)
            if met is not None and met[0] < best[0] * (1 - 1e-13):
                best, u, v, moved = met, u + du, v + dv, True
        if not moved:
            step_u, step_v = step_u / 2, step_v / 2
    return best
