"""The round holes of a body: cylinders whose material lies outside them."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.GeomAbs import GeomAbs_SurfaceType as Surfaces
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import faces_of, kind_of
from gondrel.core.kernel.geometry.about_axis import heights_of_edges, middle_walks, turned_about
from gondrel.core.kernel.geometry.analytic import surface_as_seen
from gondrel.core.kernel.geometry.normals import is_away_from, outward_in_middle
from gondrel.core.model.body import BodyKind
from gondrel.core.model.geometry import vector_of
from gondrel.core.model.measures import RoundHole

__all__ = ["holes_of"]

Floats = NDArray[np.float64]

_SAME = 1e-4
"""How far axes and radii of the faces of one hole may differ, mm."""

_PARALLEL = 1e-6
_WHOLE = 2 * math.pi - 1e-6
_STEPS, _TURNS, _INNER = 17, 8, 0.97
_STEP = 1e-2
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


def holes_of(solid: TopoDS_Shape) -> list[RoundHole]:
    """The round holes of a solid, in its frame; of another body none. Raises KernelRefused.

    A hole is what cylinder faces of one axis and radius surround all round, with the material outside; a
    wall that another hole breaks counts as one, one that is open along its side, as a groove's, does not,
    nor a recess round a hub. It is through where no material stands within it just beyond either end.
    """
    with kernel_call("looking for holes"):
        if kind_of(solid) is not BodyKind.SOLID:
            return []
        walls = [wall for n, face in enumerate(faces_of(solid)) if (wall := _wall(n, face))]
        classifier = BRepClass3d_SolidClassifier(solid)
        runs = [run for group in _alike(walls) for run in _runs(group, classifier)]
        holes = [_hole(run, classifier) for run in runs if _goes_round(run) and _is_empty(run, classifier)]
        return sorted(holes, key=lambda h: (h.diameter, h.depth, h.point))


def _wall(number: int, face: TopoDS_Face) -> _Wall | None:
    seen = surface_as_seen(face)
    if seen.GetType() != Surfaces.GeomAbs_Cylinder:
        return None
    axis, radius = seen.Cylinder().Axis(), float(seen.Cylinder().Radius())
    at, way = np.array(axis.Location().Coord()), np.array(axis.Direction().Coord())
    found = outward_in_middle(face)
    if found is None or is_away_from(at, way, *found):
        return None
    sweep = max(turned_about(walk - at, way) for walk in middle_walks(face))
    heights = heights_of_edges(face, at, way)
    return _Wall(number, at, way, radius, min(heights), max(heights), sweep)


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


def _runs(group: list[_Wall], classifier: BRepClass3d_SolidClassifier) -> list[list[_Wall]]:
    """Walls of one axis that follow one another, without a gap or across one without material in it."""
    runs: list[list[_Wall]] = []
    end = -math.inf
    for wall in sorted(group, key=lambda w: w.low):
        middle = (end + wall.low) / 2
        if not runs or (
            wall.low > end + _SAME and not _is_open(classifier, wall, middle, _INNER * wall.radius)
        ):
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


def _hole(run: list[_Wall], classifier: BRepClass3d_SolidClassifier) -> RoundHole:
    first = run[0]
    low, high = min(w.low for w in run), max(w.high for w in run)
    step = max(_STEP * first.radius, 10 * _SAME)
    inside = first.radius - step / 4  # within the cone that a drill leaves, even a flat one
    opens = [_is_open(classifier, first, height, inside) for height in (low - step, high + step)]
    way, start = first.way, low
    if opens[1] and not opens[0]:  # told from where it is open
        way, start = -first.way, high
    point = first.at + first.way * start
    return RoundHole(
        2 * first.radius, high - low, vector_of(point + 0.0), vector_of(way + 0.0), all(opens),
        tuple(wall.face for wall in run),
    )  # fmt: skip


def _is_empty(run: list[_Wall], classifier: BRepClass3d_SolidClassifier) -> bool:
    """Whether no material stands within walls, half way along them."""
    height = (min(w.low for w in run) + max(w.high for w in run)) / 2
    first, across = run[0], _across(run[0].way)
    shares = (np.arange(_STEPS) + 0.5) / _STEPS * _INNER
    middle = first.at + first.way * height
    return all(
        _is_free(classifier, middle + side * share * first.radius * across[0])
        for share in shares.tolist()
        for side in (1.0, -1.0)
    )


def _is_open(classifier: BRepClass3d_SolidClassifier, wall: _Wall, height: float, reach: float) -> bool:
    """Whether no material stands on a circle round the axis of a wall, nor on the axis, at a height."""
    middle, (x, y) = wall.at + wall.way * height, _across(wall.way)
    turns = np.arange(_TURNS) * (2 * math.pi / _TURNS)
    ring = [middle + reach * (math.cos(t) * x + math.sin(t) * y) for t in turns.tolist()]
    return all(_is_free(classifier, point) for point in (middle, *ring))


def _across(way: Floats) -> tuple[Floats, Floats]:
    """Two unit vectors across an axis and each other."""
    x = np.cross(way, np.eye(3)[int(np.argmin(np.abs(way)))])
    x = x / np.linalg.norm(x)
    return x, np.cross(way, x)


def _is_free(classifier: BRepClass3d_SolidClassifier, point: Floats) -> bool:
    classifier.Perform(gp_Pnt(*point.tolist()), 1e-7)
    return bool(classifier.State() == TopAbs_State.TopAbs_OUT)
