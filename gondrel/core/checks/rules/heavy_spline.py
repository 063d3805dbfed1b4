"""A spline of too high a degree, with too many poles, or with knots too close."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import heavy_wire, spline_sheet
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each spline beyond a limit."""
    for spline in body.splines:
        face, edge = (spline.index, -1) if spline.is_face else (-1, spline.index)
        if spline.degree > limits.degree:
            text, value, limit = f"it is of degree {spline.degree}", spline.degree, limits.degree
        elif spline.poles > limits.poles:
            text, value, limit = f"it has {spline.poles} poles one way", spline.poles, limits.poles
        else:
            continue
        yield Flaw(
            text, face=face, edge=edge, point=spline.middle, measured=float(value), limit=float(limit)
        )


CHECK = Check(
    code="G402",
    name="heavy-spline",
    title="Spline too heavy",
    severity=Severity.DOUBT,
    why="Receivers have limits, and work on it is slow.",
    cure="Have it fitted anew with fewer poles.",
    source="ISO 10303-59 high degree, many segments; SASIG-PDQ G-CU-HD, G-SU-HD (from memory)",
    run=find,
    bad=heavy_wire,
    good=lambda: spline_sheet(3.0),
)
