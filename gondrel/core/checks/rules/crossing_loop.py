"""A loop that crosses itself, or loops of a face that cross one another."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import bow_tie
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each face with such loops."""
    for face in body.faces:
        if face.flaw == "crossing":
            yield Flaw("its loops cross", face=face.index, point=body.middle_of(face.index))


CHECK = Check(
    code="T108",
    name="crossing-loop",
    title="Loop crosses itself",
    severity=Severity.FAULT,
    why="Which side of the loop is the face can not be told; areas and volumes are wrong.",
    cure="Rebuild the face within the edges of its neighbours.",
    source="ISO 10303-59 self intersecting loop; SASIG-PDQ G-LO-SI (from memory)",
    run=find,
    bad=bow_tie,
    good=lambda: block(10, 20, 30),
)
