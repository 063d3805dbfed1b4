"""A face whose loops are open or turned the wrong way, or that is not sound otherwise."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import unsound_face
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import cylinder
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


_WORDS = {
    "open": "a loop of it does not close",
    "turned": "a loop of it runs the wrong way round",
    "": "edges, curves and surface of it do not fit together",
}


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each face the kernel's own check finds unsound."""
    for face in body.faces:
        if not face.is_valid and face.flaw != "crossing":
            yield Flaw(_WORDS[face.flaw], face=face.index, point=body.middle_of(face.index))


CHECK = Check(
    code="T106",
    name="unsound-face",
    title="Face not sound",
    severity=Severity.FAULT,
    why="What lies within it is not definite; a receiver drops it or fills it whole.",
    cure="Rebuild its edges and parameter curves, or the face from its boundary.",
    source="ISO 10303-59 open edge loop; SASIG-PDQ G-LO-LG (from memory)",
    run=find,
    bad=unsound_face,
    good=lambda: cylinder(5, 10),
)
