"""A name that several products have."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure, shared_by_products
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each such name."""
    for text, several in shared_by_products(structure.model.products, lambda p: p.name).items():
        numbers = ", ".join(p.number or "(no number)" for p in several)
        yield Flaw(f"{text}: {numbers}", product=several[0].id)


CHECK = Check(
    code="M604",
    name="name-shared",
    title="Name of several products",
    severity=Severity.NOTE,
    why="A receiver that finds parts by their name takes one for the other.",
    cure="Give each product a name of its own.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
