"""A step so low that two faces are all but one."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import with_ledge
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]

_PARALLEL = 0.9998
"""Cosine of a degree."""


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each narrow face between two planes that look the same way."""
    for face in body.faces:
        width = face.width
        if not 0.0 < width < limits.short:
            continue
        longest = body.longest_neighbours(face.index)[:2]
        if len(longest) == 2 and abs(body.cosine(longest[0], longest[1])) > _PARALLEL:
            text = f"faces {longest[0] + 1} and {longest[1] + 1} lie {width:.3g} mm apart in height"
            yield Flaw(
                text, face=face.index, point=body.middle_of(face.index), measured=width, limit=limits.short
            )


CHECK = Check(
    code="G306",
    name="tiny-step",
    title="Step too low to tell",
    severity=Severity.DOUBT,
    why="The two faces are meant as one; blends, offsets and meshes fail on the step.",
    cure="Remove the step and extend one of the faces over it.",
    source="ISO 10303-59 steep or tiny step; SASIG-PDQ G-FA-RN (from memory)",
    unit="mm",
    run=find,
    bad=lambda: with_ledge(0.006),
    good=lambda: with_ledge(1.0),
)
