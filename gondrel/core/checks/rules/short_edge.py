"""An edge shorter than what is told apart."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each short edge."""
    for edge in body.edges:
        if not edge.is_degenerate and edge.length < limits.short and edge.coedges:
            text = f"it is {edge.length:.4g} mm long"
            yield Flaw(
                text, face=edge.coedges[0][0], edge=edge.index, point=edge.middle, measured=edge.length,
                limit=limits.short,
            )  # fmt: skip


CHECK = Check(
    code="G301",
    name="short-edge",
    title="Edge too short",
    severity=Severity.DOUBT,
    why="A receiver with a coarser resolution loses it and the loop opens.",
    cure="Merge its ends.",
    source="ISO 10303-59 short edge; SASIG-PDQ G-ED-TI (from memory)",
    unit="mm",
    run=find,
    bad=lambda: block(10, 20, 0.004),
    good=lambda: block(10, 20, 30),
)
