"""A solid whose material is on the outside of its skin."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import inside_out
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for the whole body."""
    if not any(len(e.coedges) == 1 and not e.is_degenerate for e in body.edges) and body.is_inside_out:
        text = "the material lies on the outer side of its skin"
        yield Flaw(text, point=body.facts.centroid, measured=body.facts.volume)


CHECK = Check(
    code="T104",
    name="inside-out",
    title="Solid inside out",
    severity=Severity.FAULT,
    why="Its volume is negative, and cutting it does the reverse of what is meant.",
    cure="Turn its skin round.",
    source="ISO 10303-59 inverted closed shell (from memory)",
    unit="mm3",
    run=find,
    bad=lambda: inside_out(block(10, 20, 30)),
    good=lambda: block(10, 20, 30),
)
