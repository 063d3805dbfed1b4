"""A tolerance of an edge or a vertex that is wider than allowed."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import wide_tolerance
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """The widest edge and the widest vertex, with how many there are."""
    edges = [e for e in body.edges if e.tolerance > limits.tolerance]
    if edges:
        worst = max(edges, key=lambda e: e.tolerance)
        text = f"{len(edges)} edges are true to {worst.tolerance:.4g} mm only"
        yield Flaw(
            text, edge=worst.index, point=worst.middle, measured=worst.tolerance, limit=limits.tolerance
        )
    points = [(t, i, p) for i, (p, t) in enumerate(body.vertices) if t > limits.tolerance]
    if points:
        tolerance, index, at = max(points)
        text = f"{len(points)} vertices are true to {tolerance:.4g} mm only"
        yield Flaw(text, vertex=index, point=at, measured=tolerance, limit=limits.tolerance)


CHECK = Check(
    code="G203",
    name="wide-tolerance",
    title="Tolerance wider than allowed",
    severity=Severity.DOUBT,
    why="Parts of the body meet only within it; a receiver with one resolution sees gaps.",
    cure="Rebuild the edges from the surfaces that meet there.",
    source="ISO 10303-59 vertex and edge tolerance (from memory)",
    unit="mm",
    run=find,
    bad=lambda: wide_tolerance(block(10, 20, 30), 0.2),
    good=lambda: block(10, 20, 30),
)
