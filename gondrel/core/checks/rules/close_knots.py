"""A spline with knots that almost fall together."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import close_knots_wire, spline_sheet
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each such spline."""
    for spline in body.splines:
        if spline.closest < limits.knots:
            face, edge = (spline.index, -1) if spline.is_face else (-1, spline.index)
            text = f"two knots lie {spline.closest:.2g} of the whole range apart"
            yield Flaw(
                text, face=face, edge=edge, point=spline.middle, measured=spline.closest, limit=limits.knots
            )


CHECK = Check(
    code="G403",
    name="close-knots",
    title="Knots too close",
    severity=Severity.DOUBT,
    why="Some receivers merge them and change the shape.",
    cure="Remove one of the knots.",
    source="ISO 10303-59 close knots; SASIG-PDQ G-CU-IK, G-SU-IK (from memory)",
    run=find,
    bad=close_knots_wire,
    good=lambda: spline_sheet(3.0),
)
