"""A spline surface that is a plane in disguise."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import spline_sheet
from gondrel.core.kernel.inspect.analytic import flatness_of
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


_FLAT = 1e-3


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each spline face whose poles lie in one plane."""
    for spline in body.splines:
        if not spline.is_face:
            continue
        off = flatness_of(body, spline.index)
        if off < _FLAT:
            text = f"its poles lie within {off:.2g} mm of a plane"
            yield Flaw(text, face=spline.index, point=spline.middle, measured=off, limit=_FLAT)


CHECK = Check(
    code="G404",
    name="plane-as-spline",
    title="Plane written as a spline",
    severity=Severity.NOTE,
    why="It can't be used as a plane for sketches, mates and measures.",
    cure="Replace it by the plane.",
    source="ISO 10303-59 nearly analytic surface (from memory)",
    unit="mm",
    run=find,
    bad=lambda: spline_sheet(0.0),
    good=lambda: spline_sheet(3.0),
)
