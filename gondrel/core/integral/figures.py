"""Area, vector area and flux of every face, from its edges alone.

Source: the theorems of Green and Stokes. With the position x from the surface's own origin, the vector
area of a face is half the integral of x cross dx along its loops; the areas of the elementary surfaces
follow from one-forms whose curl is the element of area (written at each function, own derivation); the
flux of x, three times the face's share of the volume, follows from both. Where loops wind round the
surface, a form is only determined up to the whole surface; the area is then the one between nothing and
the whole. Exact but for Gauss quadrature along the edges, better than 1e-10 of the face where edges are
lines, circles and ellipses.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.integral.nodes import Nodes, nodes_of
from gondrel.core.integral.on_patches import PatchFigures, figures_on
from gondrel.core.integral.patches import Patch
from gondrel.core.integral.tables import CONE, CYLINDER, OTHER, PLANE, SPHERE, TORUS, FaceTable

__all__ = ["FaceFigures", "figures_of"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_WHOLE = 1e-9
"""Share of a closed surface below which what is left over is taken for rounding."""


@dataclass(frozen=True, slots=True)
class FaceFigures:
    """What the loops of each face say of it; not a number where the face is not known here.

    Args:
        area: (n,) mm2, below zero where the loops run the wrong way round.
        vector: (n, 3) vector area along the face's normal, mm2; flux: (n,) of the position, mm3.
        loops: (loops,) area that each loop encloses by itself as it runs, mm2, on planes, cylinders and
            cones, not a number elsewhere; winding: (loops,) whole turns it makes round the axis.
    """

    area: Floats
    vector: Floats
    flux: Floats
    loops: Floats
    winding: Ints


@dataclass(slots=True)
class _Run:
    """The points of all coedges in the order they are run through."""

    points: Floats
    steps: Floats
    coedge: Ints
    face: Ints
    loop: Ints


def figures_of(table: FaceTable, *, budget: float = np.inf, nodes: Nodes | None = None) -> FaceFigures:
    """The figures of every face of a table.

    A face with an edge of a kind that is not known has none; one without any edge is a whole sphere or
    torus.

    Args:
        budget: how many points may be taken on surfaces that are not elementary, about. Those that close
            in themselves or end in a point, where a loop leaves doubt, are looked at whatever it is, unless
            it is negative; then no face on a patch has figures.
        nodes: those of the table's edges, where they are known.
    """
    nodes = nodes or nodes_of(table.edges)
    unknown = table.kind == OTHER
    odd = np.diff(nodes.starts)[table.edge] == 0
    crooked = np.zeros(len(table), bool)
    crooked[table.face[odd]] = True
    run = _run(table, nodes)
    n, loops = len(table), int(table.loop.max(initial=-1)) + 1
    vector = _summed(np.cross(run.points, run.steps) / 2, run.face, n)
    area, flux = np.full(n, np.nan), np.full(n, np.nan)
    alone, winding = np.full(loops, np.nan), np.zeros(loops, np.int64)
    for kind, act in ((PLANE, _planes), (CYLINDER, _cylinders), (CONE, _cones), (SPHERE, _spheres),
                      (TORUS, _tori)):  # fmt: skip
        if np.any(table.kind == kind):
            act(table, _part(run, table.kind[run.face] == kind), vector, area, flux, alone, winding)
    for column in (area, flux):
        column[unknown | crooked] = np.nan
    vector[crooked] = np.nan
    if budget >= 0:
        known = {row: make for row, make in table.patches.items() if unknown[row] and not crooked[row]}
        for row, rows, patch in _affordable(known, run, budget):
            figures = _on_patch(table, run, row, rows, patch)
            area[row], flux[row] = figures.area, figures.flux * table.sense[row]
    return FaceFigures(area, vector, flux, alone, winding)


def _affordable(
    known: Mapping[int, Callable[[Floats], Patch | None]], run: _Run, budget: float
) -> Iterator[tuple[int, slice, Patch]]:
    """Faces on patches, those that leave doubt first, the others as far as a number of points goes."""
    waiting: list[tuple[bool, float, int, slice, Patch]] = []
    for row, make in known.items():
        rows = slice(*np.searchsorted(run.face, [row, row + 1]).tolist())
        patch = make(run.points[rows])
        if patch is not None:
            spans = max(len(patch.u_breaks), len(patch.v_breaks))
            cost = (rows.stop - rows.start) * (_NEWTON + 10.0 * spans / 2)
            waiting.append((not patch.leaves_doubt, cost, row, rows, patch))
    for is_plain, cost, row, rows, patch in sorted(waiting, key=lambda each: each[:3]):
        budget -= cost
        if is_plain and budget < 0:
            return
        yield row, rows, patch


_NEWTON = 12.0
"""Points that laying one point on a patch takes, about."""


def _on_patch(table: FaceTable, run: _Run, row: int, rows: slice, patch: Patch) -> PatchFigures:
    """Figures of one face on a patch, its loops run by the natural normal."""
    points, steps, loop = run.points[rows], run.steps[rows], run.loop[rows]
    first = np.flatnonzero(np.diff(loop, prepend=-1))
    coedges = run.coedge[rows]
    begin = coedges[first]
    ahead = table.way[begin] > 0
    if table.sense[row] < 0:
        points, steps, loop = points[::-1], -steps[::-1], loop[::-1]
        begin = coedges[np.flatnonzero(np.diff(run.loop[rows], append=-1))][::-1]
        ahead = table.way[begin] < 0
    starts = table.edges.ends[table.edge[begin], np.where(ahead, 0, 1)]
    number = np.cumsum(np.diff(loop, prepend=loop[:1] - 1 if len(loop) else 0) != 0) - 1
    return figures_on(patch, points, steps, number, starts)


def _run(table: FaceTable, nodes: Nodes) -> _Run:
    """Every coedge's points, turned round where the edge is run against its direction."""
    first, count = nodes.starts[table.edge], np.diff(nodes.starts)[table.edge]
    coedge = np.repeat(np.arange(len(count)), count)
    place = np.arange(len(coedge)) - np.repeat(np.cumsum(count) - count, count)
    ahead = table.way[coedge] > 0
    index = first[coedge] + np.where(ahead, place, count[coedge] - 1 - place)
    steps = nodes.steps[index] * np.where(ahead, 1.0, -1.0)[:, None]
    return _Run(nodes.points[index], steps, coedge, table.face[coedge], table.loop[coedge])


def _part(run: _Run, chosen: Flags) -> _Run:
    return _Run(
        run.points[chosen], run.steps[chosen], run.coedge[chosen], run.face[chosen], run.loop[chosen]
    )


def _summed(values: Floats, group: Ints, count: int) -> Floats:
    if values.ndim == 1:
        return np.bincount(group, values, count).astype(np.float64)
    columns = [np.bincount(group, column, count) for column in values.T]
    return np.stack(columns, axis=1).astype(np.float64)


def _local(table: FaceTable, run: _Run) -> tuple[Floats, Floats]:
    """Points and steps in the frames of their surfaces."""
    frame = table.frame[run.face]
    points = np.einsum("nij,nj->ni", frame[:, 1:], run.points - frame[:, 0])
    return points, np.einsum("nij,nj->ni", frame[:, 1:], run.steps)


def _turning(p: Floats, d: Floats) -> Floats:
    """x dy - y dx, twice the area swept about the axis."""
    turning: Floats = p[:, 0] * d[:, 1] - p[:, 1] * d[:, 0]
    return turning


def _rows(table: FaceTable, kind: int) -> Ints:
    rows: Ints = np.flatnonzero(table.kind == kind)
    return rows


def _planes(
    table: FaceTable, run: _Run, vector: Floats, area: Floats, flux: Floats, loops: Floats, winding: Ints
) -> None:
    """Half of x dy - y dx; the position's flux is that through the origin's distance."""
    rows, (p, d) = _rows(table, PLANE), _local(table, run)
    swept = _turning(p, d) / 2 * table.sense[run.face]
    area[rows] = _summed(swept, run.face, len(table))[rows]
    flux[rows] = np.einsum("ij,ij->i", table.frame[rows, 0], vector[rows])
    _each_loop(loops, swept, run)


def _each_loop(loops: Floats, swept: Floats, run: _Run) -> None:
    numbers = np.unique(run.loop)
    loops[numbers] = np.bincount(run.loop, swept, len(loops))[numbers]


def _wound(winding: Ints, turned: Floats, run: _Run) -> None:
    loops = np.unique(run.loop)
    windings = np.bincount(run.loop, turned, len(winding))[loops] / (2 * np.pi)
    winding[loops] = np.round(windings).astype(np.int64)


def _cylinders(
    table: FaceTable, run: _Run, vector: Floats, area: Floats, flux: Floats, loops: Floats, winding: Ints
) -> None:
    """-z r du with r2 du = x dy - y dx."""
    rows, (p, d) = _rows(table, CYLINDER), _local(table, run)
    radius = table.sizes[run.face, 0]
    turned = _turning(p, d) / np.maximum(p[:, 0] ** 2 + p[:, 1] ** 2, 1e-300)
    swept = -p[:, 2] * radius * turned * table.sense[run.face]
    area[rows] = _summed(swept, run.face, len(table))[rows]
    through = np.einsum("ij,ij->i", table.frame[rows, 0], vector[rows])
    flux[rows] = through + table.sense[rows] * table.sizes[rows, 0] * area[rows]
    _each_loop(loops, swept, run)
    _wound(winding, turned, run)


def _cones(
    table: FaceTable, run: _Run, vector: Floats, area: Floats, flux: Floats, loops: Floats, winding: Ints
) -> None:
    """-(x dy - y dx) / (2 sin a) from the apex; through the cone's own lines nothing flows."""
    rows, (p, d) = _rows(table, CONE), _local(table, run)
    side = np.sign(np.bincount(run.face, p[:, 2], len(table)))
    side[side == 0] = 1
    swept = -_turning(p, d) / (2 * table.sizes[run.face, 1]) * table.sense[run.face] * side[run.face]
    area[rows] = _summed(swept, run.face, len(table))[rows]
    flux[rows] = np.einsum("ij,ij->i", table.frame[rows, 0], vector[rows])
    crossing = np.abs(np.bincount(run.face, np.abs(p[:, 2]), len(table)))
    crossing -= np.abs(np.bincount(run.face, p[:, 2], len(table)))
    both = rows[crossing[rows] > 1e-6]
    area[both], flux[both] = np.nan, np.nan  # the face crosses the apex
    _each_loop(loops, swept, run)
    _wound(winding, _turning(p, d) / np.maximum(p[:, 0] ** 2 + p[:, 1] ** 2, 1e-300), run)


_WAYS = np.array(
    [(x, y, z) for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1) if (x, y, z) != (0, 0, 0)],
    np.float64,
)
_WAYS = _WAYS @ np.linalg.qr(np.array([[0.36, 0.48, -0.8], [-0.8, 0.6, 0.1], [0.48, 0.64, 0.6]]))[0]
_WAYS /= np.linalg.norm(_WAYS, axis=1)[:, None]
"""Directions of which the one whose opposite lies farthest from all edges is taken for a sphere's pole."""


def _spheres(
    table: FaceTable, run: _Run, vector: Floats, area: Floats, flux: Floats, loops: Floats, winding: Ints
) -> None:
    """r w.(x cross dx) / (r + w.x) for a unit vector w: finite but at the point opposite to w."""
    rows, (p, d) = _rows(table, SPHERE), _local(table, run)
    n, radius = len(table), table.sizes[run.face, 0]
    lowest = np.full((n, len(_WAYS)), np.inf)
    np.minimum.at(lowest, run.face, (p / radius[:, None]) @ _WAYS.T)
    w = _WAYS[np.argmax(lowest, axis=1)][run.face]
    beyond = radius + np.einsum("ij,ij->i", w, p)
    swept = radius * np.einsum("ij,ij->i", w, np.cross(p, d)) / np.where(beyond > 0, beyond, np.nan)
    areas = _summed(swept * table.sense[run.face], run.face, n)[rows]
    size = table.sizes[rows, 0]
    area[rows] = _within(areas, 4 * np.pi * size**2)
    through = np.einsum("ij,ij->i", table.frame[rows, 0], vector[rows])
    flux[rows] = through + table.sense[rows] * size * area[rows]


def _within(angles: Floats, whole: Floats) -> Floats:
    """What is determined up to whole surfaces, as a part of one; nothing counts as the whole."""
    left = np.mod(angles, whole)
    return np.where((left < _WHOLE * whole) | (left > (1 - _WHOLE) * whole), whole, left)


def _tori(
    table: FaceTable, run: _Run, vector: Floats, area: Floats, flux: Floats, loops: Floats, winding: Ints
) -> None:
    """-(R r v + r2 sin v) du; the part linear in v is a flat torus's, known up to the whole."""
    rows, (p, d) = _rows(table, TORUS), _local(table, run)
    n = len(table)
    major, minor = table.sizes[run.face].T
    rho = np.hypot(p[:, 0], p[:, 1])
    du = _turning(p, d) / np.maximum(rho, 1e-300) ** 2
    v = _unwound(np.arctan2(p[:, 2], rho - major), run.loop)
    drho = (p[:, 0] * d[:, 0] + p[:, 1] * d[:, 1]) / np.maximum(rho, 1e-300)
    dv = ((rho - major) * d[:, 2] - p[:, 2] * drho) / minor**2
    sense = table.sense[run.face]
    first = np.concatenate([[True], run.loop[1:] != run.loop[:-1]]) if len(run.loop) else np.zeros(0, bool)
    number = np.cumsum(first) - 1
    windings = np.round(np.bincount(number, dv, int(first.sum())) / (2 * np.pi))
    flat = _summed(-v * du * sense, run.face, n)
    flat += _summed(
        2 * np.pi * windings * _longitudes(table, run.coedge[first]) * sense[first], run.face[first], n
    )
    sines = _summed(-np.sin(v) * du * sense, run.face, n)
    doubles = _summed(-np.sin(2 * v) * du * sense, run.face, n)
    flat = _within(flat[rows], np.full(len(rows), 4 * np.pi**2))
    sines, doubles = sines[rows], doubles[rows]
    big, small = table.sizes[rows].T
    area[rows] = big * small * flat + small**2 * sines
    tube = 1.5 * big * small**2 * flat + small * (big**2 + small**2) * sines
    tube += big * small**2 / 4 * doubles
    through = np.einsum("ij,ij->i", table.frame[rows, 0], vector[rows])
    flux[rows] = through + table.sense[rows] * tube
    crossing = rows[big <= small]
    area[crossing], flux[crossing] = np.nan, np.nan
    _wound(winding, du, run)


def _longitudes(table: FaceTable, coedges: Ints) -> Floats:
    """Where some coedges begin, as angles about the axes of their surfaces."""
    edges, faces = table.edge[coedges], table.face[coedges]
    points = table.edges.ends[edges, np.where(table.way[coedges] > 0, 0, 1)]
    frame = table.frame[faces]
    local = np.einsum("nij,nj->ni", frame[:, 1:], points - frame[:, 0])
    longitudes: Floats = np.arctan2(local[:, 1], local[:, 0])
    return longitudes


def _unwound(angles: Floats, group: Ints) -> Floats:
    """Angles made continuous within each run of equal groups."""
    if not len(angles):
        return angles
    step = np.diff(angles)
    windings = -np.round(step / (2 * np.pi))
    windings[group[1:] != group[:-1]] = 0
    total = np.concatenate([[0.0], np.cumsum(windings)])
    begins = np.concatenate([[True], group[1:] != group[:-1]])
    base = total[np.flatnonzero(begins)][np.cumsum(begins) - 1]
    unwound: Floats = angles + 2 * np.pi * (total - base)
    return unwound
