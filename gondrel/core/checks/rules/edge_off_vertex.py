"""An edge whose curve does not end at its vertices."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import moved_vertex
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each edge that misses a vertex."""
    for edge in body.edges:
        if edge.off_ends > limits.gap:
            text = f"its curve ends {edge.off_ends:.4g} mm from a vertex"
            at = body.vertices[edge.ends[0]][0] if edge.ends[0] >= 0 else edge.middle
            yield Flaw(
                text,
                edge=edge.index,
                vertex=edge.ends[0],
                point=at,
                measured=edge.off_ends,
                limit=limits.gap,
            )


CHECK = Check(
    code="G202",
    name="edge-off-vertex",
    title="Edge does not reach its vertex",
    severity=Severity.FAULT,
    why="Neighbouring edges do not meet; the loop is open when a receiver works more finely.",
    cure="Move the vertex to where the curves meet, or tell the tolerance it needs.",
    source="ISO 10303-59 edge vertex distance; SASIG-PDQ G-ED-VG (from memory)",
    unit="mm",
    run=find,
    bad=lambda: moved_vertex(0.07),
    good=lambda: block(10, 20, 30),
)
