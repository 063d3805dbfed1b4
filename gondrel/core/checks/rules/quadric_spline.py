"""A spline surface that is a cylinder, cone, sphere or torus in disguise."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import cylinder_as_spline, spline_sheet
from gondrel.core.kernel.inspect.analytic import analytic_of
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]

_NEAR = 1e-3


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each spline face that lies on such a surface."""
    for spline in body.splines:
        analytic = analytic_of(body, spline.index, _NEAR) if spline.is_face else None
        if analytic is not None and analytic.kind != "plane":
            size = f" of {2 * analytic.radius:.6g} mm diameter" if analytic.radius else ""
            text = f"a {analytic.kind}{size}, within {analytic.off:.2g} mm"
            yield Flaw(text, face=spline.index, point=spline.middle, measured=analytic.off, limit=_NEAR)


CHECK = Check(
    code="G405",
    name="quadric-as-spline",
    title="Cylinder, cone, sphere or torus as a spline",
    severity=Severity.NOTE,
    why="It has no axis and no diameter to measure, mate or drill by.",
    cure="Replace it by that surface.",
    source="ISO 10303-59 nearly analytic surface (from memory)",
    unit="mm",
    run=find,
    bad=lambda: cylinder_as_spline(8.0, 20.0),
    good=lambda: spline_sheet(3.0),
)
