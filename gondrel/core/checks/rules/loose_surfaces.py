"""A part made of surfaces that were not joined."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.body import BodyKind
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for each product of several sheets."""
    for product in structure.model.products:
        sheets = sum(body.kind is BodyKind.SHEET for body in product.bodies)
        if sheets > 1 and not product.is_reference:
            yield Flaw(f"{sheets} sheets that bound nothing together", product=product.id)


CHECK = Check(
    code="A506",
    name="loose-surfaces",
    title="Several loose surfaces in one part",
    severity=Severity.DOUBT,
    why="They bound no volume, so that nothing can be said of mass, and cuts go wrong.",
    cure="Sew them, close what stays open and make a solid of them.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
