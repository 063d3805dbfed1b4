"""The faces and edges of a STEP file as columns of numbers, from its records alone.

Source: ISO 10303-42 (geometry and topology): face_bound, oriented_edge and edge_curve say how a loop is
run through, face_surface whether the normal is the surface's; b_spline_curve_with_knots; the elementary
surfaces with their placements.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from functools import partial

import numpy as np
from numpy.typing import NDArray

from gondrel.core.formats.step.curved import Surfaces
from gondrel.core.formats.step.placed import (
    FLAG,
    LIST,
    NAME,
    REF,
    Geometry,
    open_conic,
    references,
    spline_of,
)
from gondrel.core.formats.step.records import Records
from gondrel.core.integral.plain import crossing_torus
from gondrel.core.integral.splines import trimmed_spline
from gondrel.core.integral.tables import (
    ARC,
    CONE,
    CYLINDER,
    LINE,
    OTHER,
    PLANE,
    SPHERE,
    SPLINE,
    TORUS,
    EdgeTable,
    FaceTable,
)

__all__ = ["Topology", "face_table"]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_FACE = re.compile(NAME + LIST + rb",\s*" + REF + FLAG)
_BOUND = re.compile(NAME + REF + FLAG)
_LOOP = re.compile(NAME + LIST)
_COEDGE = re.compile(NAME + rb"[^,]*,[^,]*,\s*" + REF + FLAG)
_EDGE = re.compile(NAME + REF + rb",\s*" + REF + rb",\s*" + REF + FLAG)
_FIRST = re.compile(NAME + REF)
CONIC = -1
"""A hyperbola or parabola, until it is turned into a spline."""

_FACES = ("ADVANCED_FACE", "FACE_SURFACE")
_SURFACES = {
    "PLANE": PLANE, "CYLINDRICAL_SURFACE": CYLINDER, "CONICAL_SURFACE": CONE, "SPHERICAL_SURFACE": SPHERE,
    "TOROIDAL_SURFACE": TORUS,
}  # fmt: skip


def face_table(geometry: Geometry, topology: Topology) -> FaceTable:
    """Every face of a file, in its own length unit; what is of another kind than those known is OTHER.

    Lengths are as in the file. Raises MalformedFile when a record that matters can't be read.
    """
    edges = _edges(geometry, topology)
    return _faces(geometry, topology, edges)


@dataclass(slots=True)
class Topology:
    """Faces, their loops and the edges those run along, by record number."""

    records: Records
    faces: list[tuple[int, list[int], int, bool]] = field(default_factory=list)
    bounds: dict[int, tuple[int, bool]] = field(default_factory=dict)
    loops: dict[int, list[int]] = field(default_factory=dict)
    coedges: dict[int, tuple[int, bool]] = field(default_factory=dict)
    edges: dict[int, tuple[int, int, int, bool]] = field(default_factory=dict)
    vertices: dict[int, int] = field(default_factory=dict)
    bare: set[int] = field(default_factory=set)

    def __post_init__(self) -> None:
        matches = self.records.matches
        for keyword in _FACES:
            for number, m in matches(keyword, _FACE):
                self.faces.append((number, references(m[1]), int(m[2]), m[3] == b"T"))
        for keyword in ("FACE_BOUND", "FACE_OUTER_BOUND"):
            self.bounds.update((n, (int(m[1]), m[2] == b"T")) for n, m in matches(keyword, _BOUND))
        self.loops = {n: references(m[1]) for n, m in matches("EDGE_LOOP", _LOOP)}
        self.bare = {n for n, _ in matches("VERTEX_LOOP", _FIRST)}
        self.coedges = {n: (int(m[1]), m[2] == b"T") for n, m in matches("ORIENTED_EDGE", _COEDGE)}
        self.edges = {
            n: (int(m[1]), int(m[2]), int(m[3]), m[4] == b"T") for n, m in matches("EDGE_CURVE", _EDGE)
        }
        self.vertices = {n: int(m[1]) for n, m in matches("VERTEX_POINT", _FIRST)}


def _edges(geometry: Geometry, topology: Topology) -> EdgeTable:
    n = len(topology.edges)
    kind, ends = np.full(n, OTHER), np.full((n, 2, 3), np.nan)
    curve_of, ahead = np.zeros(n, np.int64), np.ones(n, bool)
    for row, (first, last, curve, forward) in enumerate(topology.edges.values()):
        for side, vertex in enumerate((first, last)):
            point = geometry.points.get(topology.vertices.get(vertex, 0))
            if point is not None:
                ends[row, side] = point
        curve_of[row], ahead[row] = geometry.basis(curve), forward
        number = int(curve_of[row])
        if number in geometry.lines:
            kind[row] = LINE
        elif number in geometry.placed:
            kind[row] = ARC if geometry.placed[number][0] in ("CIRCLE", "ELLIPSE") else CONIC
        elif number in geometry.splines:
            kind[row] = SPLINE
    kind[~np.isfinite(ends).all(axis=(1, 2))] = OTHER
    frame, span = np.zeros((n, 3, 3)), np.zeros((n, 2))
    arcs = np.flatnonzero(kind == ARC)
    curves = [geometry.placed[int(curve_of[row])] for row in arcs]
    axes = geometry.frame_rows([placement for _, placement, _ in curves])
    radii = np.array([(sizes[0], sizes[-1]) if sizes else (np.nan, np.nan) for _, _, sizes in curves])
    frame[arcs, 0] = axes[:, 0]
    frame[arcs, 1:] = axes[:, 1:3] * radii.reshape(-1, 2)[:, :, None]
    span[arcs] = _angles(ends[arcs], axes, radii.reshape(-1, 2), ahead[arcs])
    kind[arcs[~np.isfinite(frame[arcs]).all(axis=(1, 2)) | ~np.isfinite(span[arcs]).all(axis=1)]] = OTHER
    splines = {}
    for row in np.flatnonzero(kind == CONIC).tolist():
        keyword, placement, sizes = geometry.placed[int(curve_of[row])]
        path = open_conic(keyword, sizes, geometry.frame_rows([placement])[0], ends[row])
        kind[row] = OTHER if path is None else SPLINE
        if path is not None:
            splines[row] = path
    for row in np.flatnonzero((kind == SPLINE) & (curve_of > 0)).tolist():
        if row in splines:
            continue
        whole = spline_of(geometry, int(curve_of[row]))
        forward = bool(ahead[row])
        path = trimmed_spline(whole, ends[row] if forward else ends[row, ::-1], forward) if whole else None
        if path is None:
            kind[row] = OTHER
        else:
            splines[row] = path
    return EdgeTable(kind, ends, frame, span, splines)


def _angles(ends: Floats, axes: Floats, radii: Floats, ahead: NDArray[np.bool_]) -> Floats:
    """Angles at which arcs start and end, in the direction they are run; equal ends are a whole turn."""
    local = np.einsum("nij,nkj->nki", axes[:, 1:], ends - axes[:, :1])
    angles = np.arctan2(local[..., 1] / radii[:, None, 1], local[..., 0] / radii[:, None, 0])
    turn = np.mod(angles[:, 1] - angles[:, 0], 2 * np.pi)
    whole = np.linalg.norm(ends[:, 0] - ends[:, 1], axis=1) <= 1e-9 * radii.max(axis=1, initial=0.0)
    turn = np.where(ahead, turn, turn - 2 * np.pi)
    turn = np.where(whole | (np.abs(turn) < 1e-12), np.where(ahead, 1.0, -1.0) * 2 * np.pi, turn)
    return np.stack([angles[:, 0], angles[:, 0] + turn], axis=1)


def _faces(geometry: Geometry, topology: Topology, edges: EdgeTable) -> FaceTable:
    n = len(topology.faces)
    kind, sizes, sense = np.full(n, OTHER), np.ones((n, 2)), np.ones(n, np.int64)
    placements = [0] * n
    rows_of_edges = {number: row for row, number in enumerate(topology.edges)}
    columns: list[tuple[int, int, int, int]] = []
    loops = 0
    broken: set[int] = set()
    for row, (_, bounds, surface, forward) in enumerate(topology.faces):
        sense[row] = 1 if forward else -1
        keyword, placement, values = geometry.placed.get(surface, ("", 0, []))
        kind[row], placements[row] = _SURFACES.get(keyword, OTHER), placement
        sizes[row] = _sizes(int(kind[row]), values, geometry.angle)
        for steps in _walks(topology, bounds):
            if steps is None:
                kind[row] = OTHER
                broken.add(row)
                continue
            columns += [(row, loops, rows_of_edges.get(edge, -1), way) for edge, way in steps]
            loops += 1
    table = np.array(columns, np.int64).reshape(-1, 4)
    lost = table[:, 2] < 0
    kind[table[lost, 0]] = OTHER
    broken.update(table[lost, 0].tolist())
    table = table[~lost]
    frame = geometry.frame_rows(placements)
    kind[~np.isfinite(frame).all(axis=(1, 2)) | ~np.isfinite(sizes).all(axis=1)] = OTHER
    cones = kind == CONE
    frame[cones, 0] -= frame[cones, 3] * (sizes[cones, 0] / np.tan(sizes[cones, 1]))[:, None]
    sizes[cones, 1] = np.sin(sizes[cones, 1])
    crossing = np.flatnonzero((kind == TORUS) & (sizes[:, 0] <= sizes[:, 1]))
    kind[crossing] = OTHER
    tori = {row: partial(crossing_torus, frame[row], *sizes[row]) for row in crossing.tolist()}
    surfaces = Surfaces(geometry)
    patches = {row: partial(surfaces.patch, topology.faces[row][2])
               for row in np.flatnonzero(kind == OTHER).tolist() if row not in broken}  # fmt: skip
    numbers = np.array([face[0] for face in topology.faces], np.int64)
    return FaceTable(kind, frame, sizes, sense, table[:, 0], table[:, 1], table[:, 2], table[:, 3], edges,
                     numbers, {**patches, **tori})  # fmt: skip


def _sizes(kind: int, values: list[float], angle: float) -> tuple[float, float]:
    if kind == CONE:
        return (values[0], values[1] * angle) if len(values) == 2 and values[1] else (np.nan, np.nan)
    if kind == TORUS:
        return (values[0], values[1]) if len(values) == 2 else (np.nan, np.nan)
    if kind in (CYLINDER, SPHERE):
        return (values[0], 1.0) if values and values[0] > 0 else (np.nan, np.nan)
    return (1.0, 1.0)


def _walks(topology: Topology, bounds: Iterable[int]) -> Iterator[list[tuple[int, int]] | None]:
    """Each loop of a face as edges and ways in the order they are run; None for one that is not known."""
    for number in bounds:
        loop, forward = topology.bounds.get(number, (0, True))
        if loop in topology.bare:
            continue
        listed = topology.loops.get(loop)
        if listed is None:
            yield None
            continue
        steps = [topology.coedges.get(coedge, (0, True)) for coedge in listed]
        if not forward:
            steps = [(edge, not way) for edge, way in reversed(steps)]
        yield [(edge, 1 if way else -1) for edge, way in steps]
