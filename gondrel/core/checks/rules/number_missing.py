"""A product without a number."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each product without a number."""
    for product in structure.model.products:
        if not product.number.strip():
            yield Flaw(f"{product.label} can't be found by a number", product=product.id)


CHECK = Check(
    code="M606",
    name="number-missing",
    title="Product without a number",
    severity=Severity.NOTE,
    why="Parts lists and stores find parts by their number.",
    cure="Give it a number at the Arrange station.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
