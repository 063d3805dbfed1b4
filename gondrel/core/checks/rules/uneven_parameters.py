"""A spline that is run through unevenly."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import smooth_curve, uneven_curve
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.inspect.self_intersection import uneven_splines
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]

_MOST = 2000.0


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each spline whose speed differs by more than a factor of 2000 along it."""
    for spline in uneven_splines(body, _MOST):
        face, edge = (spline.index, -1) if spline.is_face else (-1, spline.index)
        what = "surface" if spline.is_face else "curve"
        text = f"the {what} is run through {spline.ratio:.3g} times as fast in one place as in another"
        yield Flaw(text, face=face, edge=edge, point=spline.at, measured=spline.ratio, limit=_MOST)


CHECK = Check(
    code="G409",
    name="uneven-parameters",
    title="Spline run through unevenly",
    severity=Severity.NOTE,
    why="Sampling, meshing and intersecting miss what lies where it is slow.",
    cure="Lay it anew with even knots.",
    source="own",
    run=find,
    bad=uneven_curve,
    good=smooth_curve,
)
