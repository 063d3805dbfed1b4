"""A surface that crosses itself."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import spline_sheet
from gondrel.core.kernel.examples.flawed import crossing_surface
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.inspect.self_intersection import crossings_of_surfaces
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each spline face whose surface meets itself within its loops."""
    for face, at in crossings_of_surfaces(body):
        yield Flaw("the surface meets itself there", face=face, point=at)


CHECK = Check(
    code="G408",
    name="crossing-surface",
    title="Surface crosses itself",
    severity=Severity.FAULT,
    why="Inside and outside can not be told there; offsets and cuts fail.",
    cure="Lay the surface anew from its boundary.",
    source="ISO 10303-59 self intersecting surface; SASIG-PDQ G-SU-IS (from memory)",
    run=find,
    bad=crossing_surface,
    good=lambda: spline_sheet(3.0),
)
