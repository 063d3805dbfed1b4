"""The round holes of a body: cylinders whose material lies outside them."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_SurfaceType as Surfaces
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_Orientation, TopAbs_State
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of, kind_of
from gondrel.core.model.body import BodyKind
from gondrel.core.model.cutting import Vector
from gondrel.core.model.measures import Hole

__all__ = ["holes_of"]

Floats = NDArray[np.float64]

_SAME = 1e-4
"""How far axes and radii of the faces of one hole may differ, mm."""

_PARALLEL = 1e-6
_WHOLE = 2 * math.pi - 1e-6
_STEP = 1e-3
"""How far beyond its end it is looked whether a hole goes on, as a share of its radius."""


@dataclass(slots=True)
class _Wall:
    """A concave cylinder face: its axis, and how far and how much it goes round."""

    face: int
    at: Floats
    way: Floats
    radius: float
    low: float
    high: float
    sweep: float


def holes_of(solid: TopoDS_Shape) -> list[Hole]:
    """The round holes of a solid, in its frame; of another body none. Raises KernelRefused.

    A hole is what cylinder faces of one axis and radius surround all round, with the material outside; a
    wall that is broken by another hole counts, one that is open along its side, as a groove's, does not. It
    is through where no material stands on its axis just beyond either end.
    """
    with kernel_call("looking for holes"):
        if kind_of(solid) is not BodyKind.SOLID:
            return []
        walls = [wall for n, face in enumerate(faces_of(solid)) if (wall := _wall(n, face))]
        classifier = BRepClass3d_SolidClassifier(solid)
        holes = [
            _hole(run, classifier) for group in _alike(walls) for run in _runs(group) if _goes_round(run)
        ]
        return sorted(holes, key=lambda h: (h.diameter, h.depth, h.point))


def _wall(number: int, face: TopoDS_Face) -> _Wall | None:
    surface = BRepAdaptor_Surface(face, True)
    if surface.GetType() != Surfaces.GeomAbs_Cylinder:
        return None
    cylinder = surface.Cylinder()
    leads_out = cylinder.Direct() == (face.Orientation() != TopAbs_Orientation.TopAbs_REVERSED)
    if leads_out:
        return None
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    at, way = np.array(cylinder.Location().Coord()), np.array(cylinder.Axis().Direction().Coord())
    return _Wall(number, at, way, cylinder.Radius(), v0, v1, u1 - u0)


def _alike(walls: list[_Wall]) -> list[list[_Wall]]:
    """Walls of one axis and one radius, their heights told from the same point the same way."""
    groups: list[list[_Wall]] = []
    by_radius: defaultdict[int, list[list[_Wall]]] = defaultdict(list)
    for wall in walls:
        near = round(wall.radius / _SAME / 10)
        for group in (g for shift in (-1, 0, 1) for g in by_radius[near + shift]):
            first = group[0]
            away = wall.at - first.at
            off = float(np.linalg.norm(away - (away @ first.way) * first.way))
            if (
                abs(wall.radius - first.radius) < _SAME
                and abs(float(wall.way @ first.way)) > 1 - _PARALLEL
                and off < _SAME
            ):
                same = float(wall.way @ first.way) > 0
                base = float(away @ first.way)
                ends = (wall.low, wall.high) if same else (-wall.high, -wall.low)
                wall.at, wall.way = first.at, first.way
                wall.low, wall.high = base + ends[0], base + ends[1]
                group.append(wall)
                break
        else:
            group = [wall]
            by_radius[near].append(group)
            groups.append(group)
    return groups


def _runs(group: list[_Wall]) -> list[list[_Wall]]:
    """Walls of one axis that follow one another without a gap."""
    runs: list[list[_Wall]] = []
    end = -math.inf
    for wall in sorted(group, key=lambda w: w.low):
        if wall.low > end + _SAME:
            runs.append([])
            end = wall.high
        runs[-1].append(wall)
        end = max(end, wall.high)
    return runs


def _goes_round(run: list[_Wall]) -> bool:
    """Whether walls surround their axis at some height."""
    heights = sorted({h for wall in run for h in (wall.low, wall.high)})
    middles = [(a + b) / 2 for a, b in pairwise(heights) if b - a > _SAME]
    return any(sum(w.sweep for w in run if w.low < m < w.high) > _WHOLE for m in middles)


def _hole(run: list[_Wall], classifier: BRepClass3d_SolidClassifier) -> Hole:
    first = run[0]
    low, high = min(w.low for w in run), max(w.high for w in run)
    step = max(_STEP * first.radius, 10 * _SAME)
    ends = [first.at + first.way * height for height in (low - step, high + step)]
    opens = [_is_free(classifier, end) for end in ends]
    way, start = first.way, low
    if opens[1] and not opens[0]:  # told from where it is open
        way, start = -first.way, high
    point = first.at + first.way * start
    return Hole(
        2 * first.radius, high - low, _vector(point), _vector(way), all(opens),
        tuple(wall.face for wall in run),
    )  # fmt: skip


def _is_free(classifier: BRepClass3d_SolidClassifier, point: Floats) -> bool:
    classifier.Perform(gp_Pnt(*point.tolist()), 1e-7)
    return bool(classifier.State() == TopAbs_State.TopAbs_OUT)


def _vector(values: Floats) -> Vector:
    x, y, z = (float(v) + 0.0 for v in values)
    return x, y, z
