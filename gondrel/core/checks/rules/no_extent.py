"""An edge or face without extent."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import edge_without_length
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]

_NOTHING = 1e-7


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each edge without length and each face without area."""
    for edge in body.edges:
        if not edge.is_degenerate and edge.length <= _NOTHING:
            yield Flaw("the edge has no length", edge=edge.index, point=edge.middle, measured=edge.length)
    for face in body.faces:
        if abs(face.area) <= _NOTHING * max(face.perimeter, _NOTHING):
            yield Flaw(
                "the face has no area",
                face=face.index,
                point=body.middle_of(face.index),
                measured=face.area,
            )


CHECK = Check(
    code="G307",
    name="no-extent",
    title="Edge or face without extent",
    severity=Severity.FAULT,
    why="There is no curve or surface to work on; most receivers drop it and the skin opens.",
    cure="Merge its ends, or remove it.",
    source="ISO 10303-59 zero length curve, zero area face (from memory)",
    unit="mm",
    run=find,
    bad=edge_without_length,
    good=lambda: block(10, 20, 30),
)
