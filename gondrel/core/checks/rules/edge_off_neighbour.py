"""Edges that do not meet where they share a vertex."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import combinations

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import edge_too_short_for_its_end
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """The widest gap at each vertex where edge ends lie apart."""
    ends: dict[int, list[tuple[int, tuple[float, float, float]]]] = {}
    for edge in body.edges:
        if not edge.is_degenerate:
            for vertex, point in zip(edge.ends, edge.end_points, strict=True):
                ends.setdefault(vertex, []).append((edge.index, point))
    for vertex, met in ends.items():
        if vertex < 0:
            continue
        pairs = ((math.dist(a, b), one, other) for (one, a), (other, b) in combinations(met, 2))
        worst, one, other = max(pairs, default=(0.0, -1, -1))
        if worst > limits.gap:
            text = f"it ends {worst:.4g} mm from edge {other + 1}"
            at = body.vertices[vertex][0]
            yield Flaw(text, edge=one, vertex=vertex, point=at, measured=worst, limit=limits.gap)


CHECK = Check(
    code="G204",
    name="edge-off-neighbour",
    title="Edge does not reach its neighbour",
    severity=Severity.FAULT,
    why="The loop is open by that much when a receiver works more finely than the vertex is true.",
    cure="Lengthen or trim the edges to a common point.",
    source="ISO 10303-59 gap between adjacent edges in loop; SASIG-PDQ G-LO-LG (from memory)",
    unit="mm",
    run=find,
    bad=lambda: edge_too_short_for_its_end(0.06),
    good=lambda: block(10, 20, 30),
)
