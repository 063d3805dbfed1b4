"""A curve or surface with a kink inside."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import kinked_wire
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each spline whose tangent turns at a knot inside."""
    for spline in body.splines:
        if spline.kink > limits.kink:
            what = "surface" if spline.is_face else "curve"
            text = f"the {what} turns by {spline.kink:.3g}\u00b0 at a knot"
            face, edge = (spline.index, -1) if spline.is_face else (-1, spline.index)
            yield Flaw(
                text, face=face, edge=edge, point=spline.kink_at, measured=spline.kink, limit=limits.kink
            )


CHECK = Check(
    code="G401",
    name="kink",
    title="Kink inside a curve or surface",
    severity=Severity.DOUBT,
    why="Offsets and blends fail on it, and some formats demand that it be split.",
    cure="Split it at the kink.",
    source="ISO 10303-59 G1 discontinuity within a curve or surface; SASIG-PDQ G-SU-NT (from memory)",
    unit="deg",
    run=find,
    bad=kinked_wire,
    good=lambda: block(10, 20, 30),
)
