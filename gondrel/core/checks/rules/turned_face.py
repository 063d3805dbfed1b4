"""Faces of one skin that are turned against each other."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.examples.broken import solid_of
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each edge that both its faces run along the same way."""
    for edge in body.edges:
        faces = {face for face, _ in edge.coedges}
        if len(edge.coedges) == 2 and len(faces) == 2 and edge.coedges[0][1] == edge.coedges[1][1]:
            text = f"faces {edge.coedges[0][0] + 1} and {edge.coedges[1][0] + 1} look to opposite sides"
            yield Flaw(text, face=edge.coedges[1][0], edge=edge.index, point=edge.middle)


def _turned() -> object:
    faces = faces_of(block(10, 20, 30))
    return solid_of([faces[0].Reversed(), *faces[1:]])


CHECK = Check(
    code="T105",
    name="turned-face",
    title="Faces turned against each other",
    severity=Severity.FAULT,
    why="The skin has no definite outside.",
    cure="Turn the faces alike.",
    source="ISO 10303-59 inconsistent face orientation; SASIG-PDQ G-SH-IT (from memory)",
    run=find,
    bad=_turned,
    good=lambda: block(10, 20, 30),
)
