"""An edge that lies off the surface of a face it bounds."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import shifted_plane
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """The widest gap of each edge that has one."""
    worst: dict[int, tuple[float, int]] = {}
    for place, gap in enumerate(body.gaps):
        if gap.distance > limits.gap and gap.distance > worst.get(gap.edge, (0.0, 0))[0]:
            worst[gap.edge] = (gap.distance, place)
    for distance, place in worst.values():
        gap = body.gaps[place]
        text = f"it lies {distance:.4g} mm off face {gap.face + 1}"
        yield Flaw(text, face=gap.face, edge=gap.edge, point=gap.at, measured=distance, limit=limits.gap)


CHECK = Check(
    code="G201",
    name="edge-off-surface",
    title="Edge off its surface",
    severity=Severity.FAULT,
    why="There is a gap between neighbouring faces; it opens when a receiver works more finely.",
    cure="Rebuild the edge where the surfaces meet, or tell the tolerance it needs.",
    source="ISO 10303-59 curve on surface distance; SASIG-PDQ G-FA-EG (from memory)",
    unit="mm",
    run=find,
    bad=lambda: shifted_plane(0.05),
    good=lambda: block(10, 20, 30),
)
