"""A name with letters that some receivers lose."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each such name."""
    for product in structure.model.products:
        if product.name.strip() and not product.name.isascii():
            yield Flaw(f"{product.name!r}: some receivers show other letters", product=product.id)


CHECK = Check(
    code="M603",
    name="name-not-ascii",
    title="Name not in plain letters",
    severity=Severity.NOTE,
    why="Some receivers show other letters, or none, for what is not ASCII.",
    cure="Write it in plain letters where the receiver is one of those.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
