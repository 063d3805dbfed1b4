"""A product whose shape is in a file that was not found."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One fault for each file that was not found."""
    for product in structure.model.products:
        if product.missing_file:
            yield Flaw(f"{product.missing_file} was not found", product=product.id)


CHECK = Check(
    code="A505",
    name="missing-file",
    title="File of a component missing",
    severity=Severity.FAULT,
    why="The assembly names a part that nobody can see; what is sent of it is a hole.",
    cure="Get the file from the sender, and receive again with its folder among those searched.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
