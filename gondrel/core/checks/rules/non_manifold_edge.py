"""An edge where more than two faces of a body meet."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import finned
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each such edge."""
    for edge in body.edges:
        if len(edge.coedges) > 2 and not edge.is_degenerate:
            text = f"{len(edge.coedges)} faces meet at it"
            yield Flaw(
                text, face=edge.coedges[0][0], edge=edge.index, point=edge.middle,
                measured=float(len(edge.coedges)), limit=2.0,
            )  # fmt: skip


CHECK = Check(
    code="T103",
    name="non-manifold-edge",
    title="More than two faces meet at an edge",
    severity=Severity.FAULT,
    why="Inside and outside can't be told there; most modellers refuse such a body.",
    cure="Drop the face too many, or split the body.",
    source="ISO 10303-59 non-manifold edge; SASIG-PDQ G-SH-NM (from memory)",
    run=find,
    bad=lambda: finned(block(10, 20, 30)),
    good=lambda: block(10, 20, 30),
)
