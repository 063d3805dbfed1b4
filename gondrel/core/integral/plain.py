"""Plain boundaries as tables of faces and edges."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

import numpy as np
from numpy.typing import NDArray

from gondrel.core.integral.nodes import rule
from gondrel.core.integral.outline import BodyOutline, make_outline
from gondrel.core.integral.patches import (
    ArcPath,
    CurvedPath,
    LinePath,
    Patch,
    Path,
    SplinePatch,
    SweptPatch,
    TorusPatch,
    TurnedPatch,
)
from gondrel.core.integral.splines import Basis, SplinePath, trimmed_spline
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
from gondrel.core.model.boundary import Boundary, Edge
from gondrel.core.model.geometry import (
    BCurve,
    BSurface,
    Circle,
    Cone,
    Curve,
    Cylinder,
    Ellipse,
    Line,
    OnSurface,
    Plane,
    Sphere,
    Spun,
    Surface,
    Swept,
    Torus,
    Trimmed,
)

__all__ = ["boundary_outline", "crossing_torus", "table_of"]

Floats = NDArray[np.float64]

_TURN = np.linspace(0.0, 2 * np.pi, 9)


def boundary_outline(boundary: Boundary, *, budget: float = np.inf) -> BodyOutline:
    """What a boundary says of its faces, by their numbers; those of its shells as they are used there.

    Args:
        budget: as make_outline has it.
    """
    senses = np.ones(len(boundary.faces), np.int64)
    for number in _used(boundary):
        if number < 0:
            senses[-1 - number] = -1
    rows = list(range(len(boundary.faces)))
    outline = make_outline(table_of(boundary), {0: (rows, senses.tolist(), 1.0)}, budget=budget)
    body = outline.body(0)
    assert body is not None
    return body


def _used(boundary: Boundary) -> Iterable[int]:
    for region in boundary.regions:
        for shell in region:
            yield from shell


def table_of(boundary: Boundary) -> FaceTable:
    """The faces and edges of a boundary; what is of a kind not known here is OTHER."""
    edges = _edges(boundary)
    n = len(boundary.faces)
    kind, frame, sizes = np.full(n, OTHER), np.zeros((n, 4, 3)), np.ones((n, 2))
    sense = np.ones(n, np.int64)
    patches = {}
    columns: list[tuple[int, int, int, int]] = []
    loops = 0
    for row, face in enumerate(boundary.faces):
        kind[row], frame[row], sizes[row], opposed = _elementary(face.surface)
        sense[row] = 1 if face.forward != (face.surface.flipped != opposed) else -1
        if kind[row] == OTHER:
            patches[row] = partial(_patch, face.surface)
        for loop in face.loops:
            steps = [
                (row, loops, fin.edge, 1 if fin.forward else -1) for fin in loop if fin.edge is not None
            ]
            columns += steps
            loops += bool(steps)
    table = np.array(columns, np.int64).reshape(-1, 4)
    return FaceTable(kind, frame, sizes, sense, table[:, 0], table[:, 1], table[:, 2], table[:, 3], edges,
                     np.arange(n), patches)  # fmt: skip


def _frame(origin: Iterable[float], z: Iterable[float], x: Iterable[float]) -> Floats:
    start, ahead, across = (np.array(tuple(v), np.float64) for v in (origin, z, x))
    ahead /= np.linalg.norm(ahead)
    across = across - (across @ ahead) * ahead
    across /= np.linalg.norm(across)
    return np.stack([start, across, np.cross(ahead, across), ahead])


_NOTHING = np.zeros((4, 3))


def _elementary(surface: Surface) -> tuple[int, Floats, tuple[float, float], bool]:
    """Kind, frame and sizes of a surface, and whether its natural normal is the other way round here."""
    if isinstance(surface, Plane):
        return PLANE, _frame(surface.point, surface.normal, surface.x_axis), (1.0, 1.0), False
    if isinstance(surface, Cylinder):
        frame = _frame(surface.point, surface.axis, surface.x_axis)
        return CYLINDER, frame, (abs(surface.radius), 1.0), surface.radius < 0
    if isinstance(surface, Sphere):
        frame = _frame(surface.centre, surface.axis, surface.x_axis)
        return SPHERE, frame, (abs(surface.radius), 1.0), surface.radius < 0
    if isinstance(surface, Torus) and surface.major > surface.minor > 0:
        frame = _frame(surface.centre, surface.axis, surface.x_axis)
        return TORUS, frame, (surface.major, surface.minor), False
    if isinstance(surface, Cone) and surface.half_angle > 0:
        frame = _frame(surface.point, surface.axis, surface.x_axis)
        frame[0] -= frame[3] * surface.radius / np.tan(surface.half_angle)
        return CONE, frame, (surface.radius, float(np.sin(surface.half_angle))), False
    return OTHER, _NOTHING, (1.0, 1.0), isinstance(surface, Spun)


def _edges(boundary: Boundary) -> EdgeTable:
    n = len(boundary.edges)
    kind, ends = np.full(n, OTHER), np.zeros((n, 2, 3))
    frame, span = np.zeros((n, 3, 3)), np.zeros((n, 2))
    splines = {}
    for row, edge in enumerate(boundary.edges):
        curve, ahead = _basis(edge.curve)
        points = _ends(boundary, edge)
        if points is not None:
            ends[row] = points
        if isinstance(curve, Line) and points is not None:
            kind[row] = LINE
        elif isinstance(curve, Circle | Ellipse):
            kind[row], frame[row] = ARC, _arc_frame(curve)
            span[row] = _span(frame[row], points, ahead)
            if points is None:
                ends[row] = frame[row, 0] + frame[row, 1]
        elif isinstance(curve, BCurve) and len(curve.poles[0]) == 3:
            path = _whole(curve)
            if points is not None and path is not None:
                path = trimmed_spline(path, points if ahead else points[::-1], ahead)
            if path is not None:
                kind[row], splines[row] = SPLINE, path
                if points is None:
                    ends[row] = path.poles[0]
    return EdgeTable(kind, ends, frame, span, splines)


def _basis(curve: Curve | None) -> tuple[Curve | None, bool]:
    """The curve beneath trimmed ones and those laid on surfaces, and whether it runs along."""
    ahead = True
    for _ in range(8):
        if isinstance(curve, Trimmed):
            ahead, curve = ahead != curve.flipped, curve.basis
        elif isinstance(curve, OnSurface) and curve.original is not None:
            ahead, curve = ahead != curve.flipped, curve.original
        else:
            break
    return curve, ahead if curve is None or not curve.flipped else not ahead


def _ends(boundary: Boundary, edge: Edge) -> Floats | None:
    if edge.start is None or edge.end is None:
        return None
    return np.array([boundary.vertices[v].point for v in (edge.start, edge.end)], np.float64)


def _arc_frame(curve: Circle | Ellipse) -> Floats:
    axes = _frame(curve.centre, curve.normal, curve.x_axis)
    radii = (curve.radius, curve.radius) if isinstance(curve, Circle) else (curve.major, curve.minor)
    return np.stack([axes[0], radii[0] * axes[1], radii[1] * axes[2]])


def _span(frame: Floats, points: Floats | None, ahead: bool) -> tuple[float, float]:
    """Angles at which an arc starts and ends, in the direction it is run."""
    way = 1.0 if ahead else -1.0
    if points is None:
        return 0.0, way * 2 * np.pi
    squares = np.einsum("ij,ij->i", frame[1:], frame[1:])
    local = (points - frame[0]) @ frame[1:].T / squares
    first, last = np.arctan2(local[:, 1], local[:, 0]).tolist()
    turn = float(np.mod(way * (last - first), 2 * np.pi))
    whole = np.linalg.norm(points[0] - points[1]) <= 1e-9 * squares.max() ** 0.5
    if whole or turn < 1e-12:
        turn = 2 * np.pi
    return first, first + way * turn


def _whole(curve: BCurve) -> SplinePath | None:
    knots = np.repeat(curve.knots, curve.multiplicities)
    if len(knots) != len(curve.poles) + curve.degree + 1:
        return None
    weights = np.array(curve.weights) if curve.weights else None
    return SplinePath.whole(knots, curve.degree, np.array(curve.poles, np.float64), weights)


def _patch(surface: Surface, points: Floats) -> Patch | None:
    """A surface that is not elementary as a patch, as far as some points of it reach."""
    if isinstance(surface, BSurface):
        return _spline_patch(surface)
    if isinstance(surface, Torus):
        frame = _frame(surface.centre, surface.axis, surface.x_axis)
        return crossing_torus(frame, surface.major, surface.minor, points)
    if isinstance(surface, Swept):
        section = _path(surface.section)
        way = np.array(surface.direction, np.float64)
        return _swept(section, way, points) if section is not None else None
    if isinstance(surface, Spun):
        profile = _path(surface.profile)
        if profile is None:
            return None
        axis = np.array(surface.axis, np.float64)
        return TurnedPatch(profile, np.array(surface.point), axis / np.linalg.norm(axis), _TURN)
    return None


def _spline_patch(surface: BSurface) -> SplinePatch | None:
    u = np.repeat(surface.u_knots, surface.u_multiplicities)
    v = np.repeat(surface.v_knots, surface.v_multiplicities)
    poles = np.array(surface.poles, np.float64)
    if (len(u), len(v)) != (poles.shape[0] + surface.u_degree + 1, poles.shape[1] + surface.v_degree + 1):
        return None
    weights = np.array(surface.weights) if surface.weights else None
    return SplinePatch(Basis(u, surface.u_degree), Basis(v, surface.v_degree), poles, weights)


def _path(curve: Curve) -> Path | None:
    basis, ahead = _basis(curve)
    if isinstance(basis, Circle | Ellipse) and ahead:
        breaks = _TURN
        if isinstance(curve, Trimmed) and curve.last > curve.first:
            breaks = np.linspace(curve.first, curve.last, 9)
        return ArcPath(_arc_frame(basis), breaks)
    if isinstance(basis, BCurve) and ahead and (path := _whole(basis)) is not None:
        return CurvedPath(path, path.basis.breaks)
    return None


def _swept(section: Path, direction: Floats, points: Floats) -> SweptPatch | None:
    square = float(direction @ direction)
    if not square > 0 or not len(points) or isinstance(section, LinePath):
        return None
    along = points @ direction / square
    at = np.concatenate(
        [a + (b - a) * rule(8)[0] for a, b in zip(section.breaks[:-1], section.breaks[1:], strict=True)]
    )
    start = section.at(at)[0] @ direction / square
    margin = 0.01 * float(np.ptp(along)) + 1e-6
    low, high = along.min() - start.max() - margin, along.max() - start.min() + margin
    return SweptPatch(section, direction, np.array([low, high]))


def crossing_torus(frame: Floats, major: float, minor: float, points: Floats) -> TorusPatch | None:
    """The part of a torus that crosses itself on which some points lie: the outer, or the inner one.

    Args:
        major: below zero for the inner part; the points tell better, where there are any.
    """
    if not minor > 0 or not np.isfinite(frame).all():
        return None
    size, is_inner = abs(major), major < 0
    if len(points):
        local = (points - frame[0]) @ frame[1:].T
        rho = np.hypot(local[:, 0], local[:, 1])
        outer, inner = (np.abs(np.hypot(rho - side * size, local[:, 2]) - minor).max() for side in (1, -1))
        is_inner = bool(inner < outer)
    edge = float(np.arccos(-min(size / minor, 1.0)))
    span = (edge, 2 * np.pi - edge) if is_inner else (-edge, edge)
    return TorusPatch(frame, size, minor, _TURN, np.linspace(*span, 9))
