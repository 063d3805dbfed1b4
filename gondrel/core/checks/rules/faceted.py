"""A solid of flat facets where exact faces are likely meant."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import faceted_ball
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]

_LEAST = 60
_SHARE = 0.9


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for a body of many faces, nearly all of them plane triangles."""
    if len(body.faces) < _LEAST:
        return
    sides = [0] * len(body.faces)
    for edge in body.edges:
        for face, _ in edge.coedges:
            sides[face] += 1
    flat = sum(face.kind == "plane" and sides[face.index] == 3 for face in body.faces)
    if flat >= _SHARE * len(body.faces):
        text = f"{flat} of its {len(body.faces)} faces are plane triangles"
        yield Flaw(text, point=body.middle_of(0), measured=float(flat), limit=float(_LEAST))


CHECK = Check(
    code="G411",
    name="faceted",
    title="Facets instead of exact faces",
    severity=Severity.DOUBT,
    why="It is a mesh in a format for exact shapes: no diameters, no axes, and only as true as its facets.",
    cure="Merge the flat ones; ask the sender for the exact model.",
    source="own",
    run=find,
    bad=lambda: faceted_ball(10.0),
    good=lambda: block(10, 20, 30),
)
