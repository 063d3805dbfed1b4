"""Curves or points in a part that has more."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.body import BodyKind
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for each product with bodies of only curves or points beside others."""
    for product in structure.model.products:
        loose = sum(body.kind in (BodyKind.WIRE, BodyKind.POINT) for body in product.bodies)
        if loose and loose < len(product.bodies) and not product.is_reference:
            yield Flaw(f"{loose} bodies of only curves or points", product=product.id)


CHECK = Check(
    code="A507",
    name="loose-curves",
    title="Curves or points left over beside a solid",
    severity=Severity.DOUBT,
    why="They are construction sent along by mistake, and some receivers show them or fail on them.",
    cure="Drop them.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
