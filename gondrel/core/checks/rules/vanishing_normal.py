"""A surface whose normal vanishes or turns over."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import spline_sheet
from gondrel.core.kernel.examples.flawed import folded_surface
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.inspect.self_intersection import folds_of_surfaces
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each spline face with such a place inside."""
    for face, at in folds_of_surfaces(body):
        yield Flaw("the surface folds back, or has no normal there", face=face, point=at)


CHECK = Check(
    code="G410",
    name="vanishing-normal",
    title="Surface folds or has no normal",
    severity=Severity.FAULT,
    why="Which side is outside changes there; offsets, shading and milling paths fail.",
    cure="Lay the surface anew from its boundary.",
    source="ISO 10303-59 indistinct surface normal, folded surface; SASIG-PDQ G-SU-FO (from memory)",
    run=find,
    bad=folded_surface,
    good=lambda: spline_sheet(3.0),
)
