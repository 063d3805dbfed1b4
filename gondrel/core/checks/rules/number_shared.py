"""A number that several products have."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure, shared_by_products
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for each such number."""
    for text, several in shared_by_products(structure.model.products, lambda p: p.number).items():
        yield Flaw(f"{text}: {', '.join(p.label for p in several)}", product=several[0].id)


CHECK = Check(
    code="M602",
    name="number-shared",
    title="Number of several products",
    severity=Severity.DOUBT,
    why="A receiver that finds parts by their number takes one for the other.",
    cure="Give each product a number of its own.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
