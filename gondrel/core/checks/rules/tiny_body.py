"""A body smaller than what is told apart."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.body import BodyKind
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for a body no larger than the shortest edge allowed."""
    box = body.facts.bbox
    size = max(box[i + 3] - box[i] for i in range(3))
    if body.kind is not BodyKind.POINT and size < limits.short:
        text = f"it is {size:.4g} mm across"
        yield Flaw(text, point=body.facts.centroid, measured=size, limit=limits.short)


CHECK = Check(
    code="G304",
    name="tiny-body",
    title="Body smaller than the tolerance",
    severity=Severity.FAULT,
    why="It is debris, or its unit is wrong; receivers drop it or fail on it.",
    cure="Drop it, or look at its unit.",
    source="ISO 10303-59 entirely small solid (from memory)",
    unit="mm",
    run=find,
    bad=lambda: block(0.004, 0.006, 0.005),
    good=lambda: block(10, 20, 30),
)
