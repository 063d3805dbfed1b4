"""A body's topology as plain values: vertices, edges, loops, faces and regions.

Directions follow the XT format: a face lies to the left of its loops seen against its normal, an
edge runs along its curve, and a face normal leads out of the material.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from gondrel.core.model.geometry import Curve, Surface, Vector

__all__ = ["Boundary", "Edge", "Face", "Fin", "Loop", "Vertex", "connected"]


@dataclass(frozen=True, slots=True)
class Vertex:
    """A point where edges end; tolerance in mm when wider than the format's own."""

    point: Vector
    tolerance: float | None = None


@dataclass(frozen=True, slots=True)
class Edge:
    """A stretch of a curve between two vertices (indices); without any it is a whole closed curve.

    A tolerant edge may have no curve; then its fins have curves on their faces.

    Args:
        source: index of the edge it was made from, where it was made from another body's.
    """

    curve: Curve | None
    start: int | None = None
    end: int | None = None
    tolerance: float | None = None
    source: int = -1


@dataclass(frozen=True, slots=True)
class Fin:
    """The use of an edge by a loop; `forward` along the edge. Without an edge, a vertex by itself."""

    edge: int | None
    forward: bool = True
    vertex: int | None = None
    curve: Curve | None = None


Loop = tuple[Fin, ...]


@dataclass(frozen=True, slots=True)
class Face:
    """A part of a surface within loops; without loops the whole of a closed surface.

    Args:
        forward: whether its normal is that of the surface, flips included.
        source: index of the face it was made from, where it was made from another body's.
    """

    surface: Surface
    forward: bool
    loops: tuple[Loop, ...]
    tolerance: float | None = None
    source: int = -1


@dataclass(frozen=True, slots=True)
class Boundary:
    """One body.

    Args:
        kind: solid, sheet, wire, point, or general when it holds several of them.
        regions: its parts full of material: shells of face indices, the outer first; a face index
            below zero, -1 - n, stands for face n turned round.
        shells: shells of faces without material on either side.
        wires: the edge indices of each connected part without faces.
        points: vertices that stand alone.
    """

    kind: str
    vertices: tuple[Vertex, ...] = ()
    edges: tuple[Edge, ...] = ()
    faces: tuple[Face, ...] = ()
    regions: tuple[tuple[tuple[int, ...], ...], ...] = field(default=())
    shells: tuple[tuple[int, ...], ...] = field(default=())
    wires: tuple[tuple[int, ...], ...] = field(default=())
    points: tuple[int, ...] = field(default=())


def connected(edges: Sequence[Edge], numbers: Iterable[int]) -> tuple[tuple[int, ...], ...]:
    """Some edges, by number, grouped by the vertices they share; groups by their first edge."""
    groups: list[tuple[set[int], list[int]]] = []
    for number in numbers:
        ends = {v for v in (edges[number].start, edges[number].end) if v is not None}
        joined = [g for g in groups if g[0] & ends]
        groups = [g for g in groups if not g[0] & ends]
        vertices = ends.union(*(g[0] for g in joined))
        groups.append((vertices, [*(n for g in joined for n in g[1]), number]))
    return tuple(sorted(tuple(sorted(members)) for _, members in groups))
