"""A face so narrow that it is next to nothing."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each face whose mean width is below the limit."""
    for face in body.faces:
        if face.width < limits.short:
            text = f"it is {face.width:.3g} mm wide on average, {face.area:.3g} mm\u00b2 in all"
            yield Flaw(
                text,
                face=face.index,
                point=body.middle_of(face.index),
                measured=face.width,
                limit=limits.short,
            )


CHECK = Check(
    code="G302",
    name="sliver-face",
    title="Face narrow or tiny",
    severity=Severity.DOUBT,
    why="A receiver with a coarser resolution loses it and the skin opens.",
    cure="Remove it and let its neighbours meet.",
    source="ISO 10303-59 small area, narrow face; SASIG-PDQ G-FA-NA, G-FA-TI (from memory)",
    unit="mm",
    run=find,
    bad=lambda: block(10, 20, 0.004),
    good=lambda: block(10, 20, 30),
)
