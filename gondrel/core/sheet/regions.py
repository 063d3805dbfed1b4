"""Closed regions of curves: the faces of the net that they make, with islands as holes.

Source: faces of a planar graph by turning always to the next edge, a textbook method of computational
geometry, here with the tangents of curves; a region inside a hole is one again (even and odd).
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Sequence

import numpy as np
import shapely

from gondrel.core.model.outline import Curve, Polyline, sampled
from gondrel.core.model.profile import Amiss, Loop, Profile, Region
from gondrel.core.sheet.amiss import crossings_of, doubles_of
from gondrel.core.sheet.curve_sizes import curve_at, curve_length, swept_area, tangents_of
from gondrel.core.sheet.joining import joined_ends

__all__ = ["find_regions"]

_FINE = 2000.0
_NEAR = 1e-4
_THIN = 1e-12

Half = tuple[int, bool]
"""A curve, and whether it is run backwards."""


def find_regions(curves: Sequence[Curve], within: float = 0.01) -> Profile:
    """The regions that curves enclose.

    Args:
        curves: mm; a polyline counts as its stretches' ends joined.
        within: how near ends must come to be joined, mm.
    """
    curves = [curve for curve in curves if not isinstance(curve, Polyline)]
    doubles = doubles_of(curves, within)
    gone = {pair[1] for pair, _ in doubles if pair[1] is not None}
    kept = [place for place in range(len(curves)) if place not in gone]
    joined, nodes, ends, widest = joined_ends([curves[n] for n in kept], within)
    alive = [
        n for n, (a, b) in enumerate(ends) if a != b or a == -1 or curve_length(joined[n]) > 4 * within
    ]
    used, loose = _closed_part(alive, ends)
    loops = [_loop(((n, False),), joined) for n in alive if ends[n] == (-1, -1)]
    loops += _faces(used, joined, ends)
    size = max(
        (float(np.ptp(np.array(nodes or [(0.0, 0.0)]), axis=0).max()), *map(_size, joined)), default=1.0
    )
    regions = _nested(loops, joined, size / _FINE)
    amiss = [Amiss("double", at, tuple(kept.index(n) for n in pair if n in kept)) for pair, at in doubles]
    amiss += [Amiss("open", nodes[node], tuple(those)) for node, those in loose]
    amiss += crossings_of(joined, nodes, ends, within, size / _FINE)
    return Profile(
        tuple(joined), tuple(kept), tuple(nodes), tuple(ends), within, widest, tuple(regions), tuple(amiss)
    )


def _size(curve: Curve) -> float:
    return float(np.ptp(sampled(curve, 1e9), axis=0).max())


def _closed_part(
    alive: Sequence[int], ends: Sequence[tuple[int, int]]
) -> tuple[list[int], list[tuple[int, list[int]]]]:
    """Curves that no dangling run holds, and the nodes where one curve ends alone with that curve."""
    at: defaultdict[int, set[int]] = defaultdict(set)
    for n in alive:
        if ends[n] != (-1, -1):
            at[ends[n][0]].add(n)
            at[ends[n][1]].add(n)
    degree = Counter(node for n in alive for node in ends[n] if node >= 0)
    loose = [(node, sorted(at[node])) for node, count in sorted(degree.items()) if count == 1]
    waiting, gone = [node for node, _ in loose], set[int]()
    while waiting:
        node = waiting.pop()
        for n in at[node] - gone:
            gone.add(n)
            for other in ends[n]:
                degree[other] -= 1
                if degree[other] == 1:
                    waiting.append(other)
    return [n for n in alive if n not in gone and ends[n] != (-1, -1)], loose


def _loop(halves: Sequence[Half], curves: Sequence[Curve]) -> Loop:
    """A loop as it runs. A curve that closes in itself is run anticlockwise."""
    area = math.fsum(-swept_area(curves[n]) if back else swept_area(curves[n]) for n, back in halves)
    length = math.fsum(curve_length(curves[n]) for n, _ in halves)
    if len(halves) == 1 and area < 0.0:
        return Loop(((halves[0][0], not halves[0][1]),), -area, length)
    return Loop(tuple(halves), area, length)


def _faces(used: Sequence[int], curves: Sequence[Curve], ends: Sequence[tuple[int, int]]) -> list[Loop]:
    """Every face of the net of curves that is enclosed, anticlockwise."""
    leaving: defaultdict[int, list[tuple[float, Half]]] = defaultdict(list)
    for n in used:
        for back in (False, True):
            leaving[ends[n][1 if back else 0]].append((_heading(curves[n], back), (n, back)))
    after: dict[Half, Half] = {}
    for fan in leaving.values():
        fan.sort()
        for place, (_, half) in enumerate(
            fan
        ):  # who comes back along this one leaves by the next clockwise
            after[half[0], not half[1]] = fan[place - 1][1]
    loops, seen = [], set[Half]()
    for start in after:
        if start in seen:
            continue
        run, half = [], start
        while half not in seen:
            seen.add(half)
            run.append(half)
            half = after[half]
        area = math.fsum(-swept_area(curves[n]) if back else swept_area(curves[n]) for n, back in run)
        length = math.fsum(curve_length(curves[n]) for n, _ in run)
        if area > _THIN * length**2:
            loops.append(Loop(tuple(run), area, length))
    return loops


def _heading(curve: Curve, back: bool) -> float:
    """The angle at which a curve leaves its start, or its end where it is run backwards; with a little of
    how it bends, so that curves that touch there are told apart."""
    first, last = tangents_of(curve)
    along = -last if back else first
    points = sampled(curve, max(_size(curve), 1e-9) * _NEAR)
    chord = points[-2] - points[-1] if back else points[1] - points[0]
    bend = math.atan2(along[0] * chord[1] - along[1] * chord[0], float(along @ chord))
    return math.atan2(along[1], along[0]) + 1e-6 * bend


def _nested(loops: Sequence[Loop], curves: Sequence[Curve], chord: float) -> list[Region]:
    """Regions of loops: one inside another is a hole of it, one inside a hole a region again."""
    if not loops:
        return []
    order = sorted(loops, key=lambda loop: -loop.area)
    polygons = [shapely.Polygon(_polygon(loop, curves, chord)) for loop in order]
    inner = [_inner_point(loop, curves) for loop in order]
    tree = shapely.STRtree(polygons)
    holders: list[list[int]] = [[] for _ in order]
    for point, holder in tree.query(shapely.points(inner), predicate="within").T.tolist():
        if holder != point and order[holder].area > order[point].area * (1 + 1e-9):
            holders[point].append(holder)
    neighbours = _neighbours(order)
    depth = [len({neighbours[h] for h in held} - {neighbours[n]}) for n, held in enumerate(holders)]
    holes: defaultdict[int, list[Loop]] = defaultdict(list)
    for place, held in enumerate(holders):
        if depth[place] % 2 and held:
            owner = max((h for h in held if depth[h] == depth[place] - 1), default=held[-1])
            holes[owner].append(_turned(order[place]))
    return [Region(loop, tuple(holes[place])) for place, loop in enumerate(order) if depth[place] % 2 == 0]


def _neighbours(loops: Sequence[Loop]) -> list[int]:
    """Which loops hang together by shared curves, by a number for each."""
    of: dict[int, int] = {}
    groups = list(range(len(loops)))
    for place, loop in enumerate(loops):
        for n, _ in loop.curves:
            if n in of:
                old, new = groups[place], groups[of[n]]
                groups = [new if g == old else g for g in groups]
            else:
                of[n] = place
    return groups


def _turned(loop: Loop) -> Loop:
    return Loop(tuple((n, not back) for n, back in reversed(loop.curves)), -loop.area, loop.length)


def _polygon(loop: Loop, curves: Sequence[Curve], chord: float) -> np.ndarray:
    runs = [sampled(curves[n], chord)[:: -1 if back else 1] for n, back in loop.curves]
    return np.concatenate(runs)


def _inner_point(loop: Loop, curves: Sequence[Curve]) -> np.ndarray:
    """A point on the rim of a loop, in the middle of a curve."""
    curve = curves[loop.curves[0][0]]
    points = sampled(curve, max(_size(curve), 1e-9) * 1e-3)
    middle = points[len(points) // 2] if len(points) > 2 else curve_at(curve, np.array([0.5]))[0]
    return np.asarray(middle)
