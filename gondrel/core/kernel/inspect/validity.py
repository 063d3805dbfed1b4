"""Faces on elementary surfaces that are plainly sound, with their areas, all of a body's at once.

The kernel's own check of a face costs more than all else that is looked at. Where the loops of a face
on a plane, cylinder, cone, sphere or torus, laid out flat, are polygons that neither cross nor come
nearer to one another than they are true, it has nothing left to find. The other faces still need it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face

from gondrel.core.kernel.geometry.elementary import PLANE, TORUS, ElementarySurfaces, on_surfaces
from gondrel.core.kernel.inspect.records import EdgeRecord, Point
from gondrel.core.kernel.topology.coedges import Coedges, pcurves_of
from gondrel.core.work.halves import in_halves

__all__ = ["Validity", "faces_plainly_valid"]

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]
Ints = NDArray[np.int64]

_MEET = 0.01
"""Share of a face's extent within which an edge must begin where the one before it in the loop ended;
that both ends lie on one vertex is seen in space, so that this tells whole turns apart."""

_COARSE = 1e-4
"""Share of a face's extent that its polygon may lie off its edges."""

_THIN = 1e-7
_WHOLE_TURN = 2 * np.pi * (1 + 1e-9)
_AT_ONCE = 6_000
_CONICS = ("line", "circle", "ellipse", "point")


@dataclass(frozen=True, slots=True)
class Validity:
    """What is plain of faces.

    Args:
        areas: of the faces shown to be sound, mm2, to a ten-thousandth; not a number for all others.
        off: how far each use of an edge lies off its surface at the same parameter, mm; not a number
            where that was not looked at.
    """

    areas: Floats
    off: Floats


def faces_plainly_valid(
    faces: Sequence[TopoDS_Face],
    forms: ElementarySurfaces,
    coedges: Coedges,
    edges: Sequence[EdgeRecord],
    vertices: Sequence[tuple[Point, float]],
    samples: Floats,
) -> Validity:
    """Tell the faces that are sound.

    Args:
        forms: of the faces' surfaces; samples: points evenly spread along every edge, (edges, points, 3),
            mm, one more of them than four divides.

    Source: own. A face is sound when its edges are lines and conics that lie on its surface and end in
    their vertices within their tolerances, and its loops, laid out true to area, bound one polygon
    (OGC Simple Features: valid) that keeps clear of itself by more than arcs differ from chords. Areas
    are those beneath the edges.
    """
    validity, away = np.full(len(faces), np.nan), np.full(len(coedges), np.nan)
    may_be = forms.kind >= 0
    may_be[list(coedges.odd)] = False
    unfit = np.array([not _fits(edge, vertices) for edge in edges], bool)
    may_be[coedges.face[unfit[coedges.edge]]] = False
    limits = np.array([edge.tolerance for edge in edges])
    ends = np.array([edge.ends for edge in edges], np.int64).reshape(-1, 2)
    widest = _widest(forms)
    parts = list(_parted(coedges.face, np.flatnonzero(may_be[coedges.face])))

    def looked_at(first: int, behind: int) -> list[tuple[Floats, Ints, Floats]]:
        """Of some parts how far each use lies off, and sound faces with their areas."""
        return [_looked_at(rows) for rows in parts[first:behind]]

    def _looked_at(rows: Ints) -> tuple[Floats, Ints, Floats]:
        face, edge, forward = coedges.face[rows], coedges.edge[rows], coedges.forward[rows]
        flat = pcurves_of(coedges, rows.tolist(), faces, samples.shape[1])
        points, lay = on_surfaces(flat, forms[face])
        off = np.asarray(np.linalg.norm(points - samples[edge], axis=2).max(axis=1), np.float64)
        lay[~forward] = lay[~forward, ::-1]
        run = np.where(forward[:, None], ends[edge], ends[edge, ::-1])
        is_near = off <= limits[edge]
        numbers, areas = _areas(lay, face, coedges.loop[rows], run, is_near, widest)
        signs = [-1.0 if faces[n].Orientation() == _REVERSED else 1.0 for n in numbers.tolist()]
        return off, numbers, np.where(areas * signs > 0, areas * signs, np.nan)

    made = [part for half in in_halves(len(parts), looked_at, worth=3) for part in half]
    for rows, (off, numbers, areas) in zip(parts, made, strict=True):
        away[rows], validity[numbers] = off, areas
    return Validity(validity, away)


def _widest(forms: ElementarySurfaces) -> Floats:
    """How much of u, and of the area that v sweeps, there is on each surface, (n, 2)."""
    widest = np.full((len(forms.kind), 2), np.inf)
    widest[forms.kind != PLANE, 0] = _WHOLE_TURN
    torus = forms.kind == TORUS
    widest[torus, 1] = _WHOLE_TURN * forms.sizes[torus].prod(axis=1)
    return widest


_REVERSED = TopAbs_Orientation.TopAbs_REVERSED


def _fits(edge: EdgeRecord, vertices: Sequence[tuple[Point, float]]) -> bool:
    return (
        edge.kind in _CONICS
        and min(edge.ends) >= 0
        and edge.off_ends <= min(vertices[edge.ends[0]][1], vertices[edge.ends[1]][1])
    )


def _parted(face: Ints, rows: Ints) -> Iterator[Ints]:
    """Rows in parts of some thousand, those of a face together."""
    begins = _begins(face[rows])
    wanted = np.searchsorted(begins, np.arange(_AT_ONCE, len(rows), _AT_ONCE))
    for part in np.split(rows, np.unique(begins[wanted[wanted < len(begins)]])):
        if len(part):
            yield part


def _begins(numbers: Ints) -> Ints:
    """Where each run of equal numbers begins."""
    begins: Ints = np.flatnonzero(np.diff(numbers, prepend=-1))
    return begins


def _areas(
    lay: Floats, face: Ints, loop: Ints, ends: Ints, is_near: Flags, widest: Floats
) -> tuple[Ints, Floats]:
    """Sound faces, and the area within each, positive when its outline runs leftward round it.

    Args:
        lay: a row of points for each use of an edge, from its beginning to its end, loop by loop;
            ends: its first and last vertex.
    """
    faces, loops = _begins(face), _begins(loop)
    face_of = np.searchsorted(faces, loops, "right") - 1  # of each loop
    loop_of = np.searchsorted(loops, np.arange(len(loop)), "right") - 1  # of each row
    low = np.minimum.reduceat(lay.min(axis=1), faces)
    extent = np.maximum.reduceat(lay.max(axis=1), faces) - low
    sound = np.all((extent > 0) & (extent <= widest[face[faces]]), axis=1)
    size = np.sqrt(np.where(sound, extent.prod(axis=1), 1.0))
    stretch = np.where(sound[:, None], size[:, None] / np.maximum(extent, 1e-300), 1.0)
    whose = face_of[loop_of]
    even = (lay - low[whose, None]) * stretch[whose, None]  # as wide as high, the area kept
    goes_on = _goes_on(even, ends, loops, _MEET * size[whose])
    for number in np.flatnonzero(~np.logical_and.reduceat(goes_on, loops)).tolist():
        rows = slice(loops[number], loops[number + 1] if number + 1 < len(loops) else len(loop))
        order = _chained(even[rows], ends[rows])
        even[rows], ends[rows] = even[rows][order], ends[rows][order]
    goes_on = _goes_on(even, ends, loops, _MEET * size[whose])
    sound &= np.logical_and.reduceat(is_near & goes_on, faces)
    shown, off = _thinned(even, _COARSE * size[whose])
    corners = np.add.reduceat(shown.sum(axis=1), loops)
    sound &= np.minimum.reduceat(corners, _begins(face_of)) > 2
    true_to = np.maximum.reduceat(off, faces) + _THIN * size
    some = np.flatnonzero(sound[face_of])
    rings = shapely.linearrings(
        even[shown & sound[whose][:, None]], indices=np.repeat(np.arange(len(some)), corners[some])
    )
    signed = np.add.reduceat(_beneath(even), loops)[some]
    numbers, areas, clear = _bounded(rings, signed, face_of[some])
    fine = clear > 2 * true_to[numbers]
    return face[faces][numbers[fine]], areas[fine]


def _chained(lay: Floats, ends: Ints) -> list[int]:
    """The rows of a loop in an order in which each begins, if any does, where the one before it ends."""
    begins, stops = lay[:, 0].tolist(), lay[:, -1].tolist()
    at: dict[int, list[int]] = {}
    for row, vertex in enumerate(ends[:, 0].tolist()):
        at.setdefault(vertex, []).append(row)
    order = [at[int(ends[0, 0])].pop(0)]
    while len(order) < len(lay):
        last = order[-1]
        left = at.get(int(ends[last, 1])) or next(rows for rows in at.values() if rows)
        order.append(min(left, key=lambda row: math.dist(begins[row], stops[last])))
        left.remove(order[-1])
    return order


def _goes_on(lay: Floats, ends: Ints, loops: Ints, near: Floats) -> Flags:
    """Whether the next row of its loop begins where a row ends, in the same vertex."""
    after = np.arange(1, len(lay) + 1)
    after[np.append(loops[1:], len(lay)) - 1] = loops
    apart = np.linalg.norm(lay[:, -1] - lay[after, 0], axis=1)
    goes_on: Flags = (ends[:, 1] == ends[after, 0]) & (apart <= near)
    return goes_on


def _bounded(rings: NDArray[Any], signed: Floats, face: Ints) -> tuple[Ints, Floats, Floats]:
    """Faces bounded by one outline and holes within it that run the other way round.

    Args:
        rings: loops laid out flat, signed: the area in each as it runs, face: whose they are, in order.

    Returns: the faces, the areas as the outlines run, and how clear each keeps of itself.
    """
    order = np.lexsort((-np.abs(signed), face))
    firsts = _begins(face[order])
    whose = np.repeat(np.arange(len(firsts)), np.diff(firsts, append=len(order)))
    ways = np.sign(signed[order])
    expected = -ways[firsts][whose]
    expected[firsts] = ways[firsts]
    shapes = shapely.polygons(rings[order], indices=whose)
    fine = shapely.is_valid(shapes)
    if len(firsts):
        fine &= np.logical_and.reduceat(ways == expected, firsts)
    areas = np.asarray(np.bincount(whose, signed[order], len(firsts)), np.float64)
    clear = np.asarray(np.where(fine, shapely.minimum_clearance(shapes), 0.0), np.float64)
    return face[order][firsts], areas, clear


def _thinned(points: Floats, limit: Floats) -> tuple[Flags, Floats]:
    """Which points of rows (n, m, 2) a polygon needs, the last left out as the next row begins there.

    Returns: (n, m), and how far each row may lie off its chords: as few as keep that below a limit, else
    all, which are true to half of what every other one is, since arcs halve it twice.
    """
    shown = np.ones(points.shape[:2], bool)
    off = _off_chords(points, 2) / 2
    for step in (4, points.shape[1] - 1):
        further = _off_chords(points, step)
        enough = further <= limit
        shown[enough] = np.arange(points.shape[1]) % step == 0
        off[enough] = further[enough]
    shown[:, -1] = False
    return shown, off


def _off_chords(points: Floats, step: int) -> Floats:
    """How far rows of points (n, m, 2) lie off the chords between each step-th of them, at most, (n,)."""
    begins, chords = points[:, :-1:step], points[:, step::step] - points[:, :-1:step]
    lengths = np.maximum(np.linalg.norm(chords, axis=2), 1e-300)
    deviations = np.zeros(len(points))
    for between in range(1, step):
        aside = points[:, between::step] - begins
        off = np.abs(_cross(chords, aside)) / lengths
        deviations = np.maximum(
            deviations, np.where(lengths > 1e-300, off, np.linalg.norm(aside, axis=2)).max(axis=1)
        )
    return deviations


def _beneath(points: Floats) -> Floats:
    """Signed areas between rows of points (n, m, 2) and the origin, (n,); m - 1 divides by four.

    Source: Romberg's rule over the areas beneath all, every second and every fourth chord.
    """
    fine, mid, coarse = (
        _cross(points[:, :-1:step], points[:, step::step]).sum(axis=1) / 2 for step in (1, 2, 4)
    )
    better, good = (4 * fine - mid) / 3, (4 * mid - coarse) / 3
    beneath: Floats = (16 * better - good) / 15
    return beneath


def _cross(a: Floats, b: Floats) -> Floats:
    crosses: Floats = a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]
    return crosses
