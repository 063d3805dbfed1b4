"""A solid whose skin has a hole."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, connected_boundaries
from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.examples.broken import solid_of
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.body import BodyKind
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each open boundary of a solid, measured by its length."""
    if body.kind is not BodyKind.SOLID:
        return
    for boundary in connected_boundaries(body):
        length = sum(body.edges[i].length for i in boundary)
        first = body.edges[boundary[0]]
        text = f"{len(boundary)} edges around a hole {length:.4g} mm long have a face on one side only"
        yield Flaw(
            text,
            face=first.coedges[0][0],
            edge=boundary[0],
            point=first.middle,
            measured=length,
            edges=tuple(boundary),
        )


CHECK = Check(
    code="T101",
    name="open-solid",
    title="Solid not closed",
    severity=Severity.FAULT,
    why="It bounds no volume: a receiver turns it into a surface model or refuses it.",
    cure="Close the rim with a face, or join the faces around it.",
    source="ISO 10303-59 open closed shell; SASIG-PDQ G-SH-FR (from memory)",
    unit="mm",
    run=find,
    bad=lambda: solid_of(faces_of(block(10, 20, 30))[:5]),
    good=lambda: block(10, 20, 30),
)
