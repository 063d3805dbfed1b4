"""A body that reaches further out than modellers allow."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for a body outside the box."""
    reach = max(abs(v) for v in body.facts.bbox)
    if reach > limits.size_box:
        text = f"it reaches {reach / 1000:.6g} m from the origin"
        yield Flaw(text, point=body.facts.centroid, measured=reach, limit=limits.size_box)


CHECK = Check(
    code="G303",
    name="outside-size-box",
    title="Body outside the size box",
    severity=Severity.FAULT,
    why="Modellers with a size box refuse it, or lose precision so far out.",
    cure="Move it near the origin, or look at its unit.",
    source="Parasolid XT size box of 1 km (from memory); own elsewhere",
    unit="mm",
    run=find,
    bad=lambda: block(10, 20, 30, at=(600_000, 0, 0)),
    good=lambda: block(10, 20, 30),
)
