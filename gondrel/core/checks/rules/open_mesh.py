"""A mesh that bounds no solid."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.model.facets import Facets
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(mesh: Facets, limits: CheckLimits) -> Iterator[Flaw]:
    """One fault for each kind of flaw, with how often it is there and where first."""
    for flaw in mesh.flaws():
        yield Flaw(str(flaw), point=flaw.at, measured=float(flaw.count))


CHECK = Check(
    code="F701",
    name="open-mesh",
    title="Mesh that bounds no solid",
    severity=Severity.FAULT,
    why="Nothing can be said of its volume, it can't be printed, and no solid can be made of it.",
    cure="Mend the mesh.",
    source="own",
    scope=Scope.MESH,
    run=find,
)
