"""A product without a name."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for each product without a name."""
    for product in structure.model.products:
        if not product.name.strip():
            yield Flaw(f"number {product.number or 'missing too'}", product=product.id)


CHECK = Check(
    code="M601",
    name="name-missing",
    title="Product without a name",
    severity=Severity.DOUBT,
    why="In the receiver it is one of many that nobody can tell apart.",
    cure="Give it a name at the Arrange station.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
