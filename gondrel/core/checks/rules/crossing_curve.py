"""A curve that crosses itself."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import crossing_curve, smooth_curve
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.inspect.self_intersection import crossings_of_curves
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each edge whose curve meets itself."""
    for edge, at in crossings_of_curves(body):
        yield Flaw("the curve meets itself there", edge=edge, point=at)


CHECK = Check(
    code="G407",
    name="crossing-curve",
    title="Curve crosses itself",
    severity=Severity.FAULT,
    why="No loop with it bounds a face; trimming by it fails.",
    cure="Split it and drop the loop, or draw it again.",
    source="ISO 10303-59 self intersecting curve; SASIG-PDQ G-CU-IS (from memory)",
    run=find,
    bad=crossing_curve,
    good=smooth_curve,
)
