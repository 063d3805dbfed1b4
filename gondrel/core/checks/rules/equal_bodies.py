"""Products whose bodies are the same."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.findings import CheckLimits, Severity
from gondrel.core.model.product import Product

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each group of products with the same bodies."""
    owners: dict[tuple[str, ...], list[Product]] = defaultdict(list)
    for product in structure.model.products:
        if product.bodies:
            owners[tuple(sorted(b.blob for b in product.bodies))].append(product)
    for alike in owners.values():
        if len(alike) > 1:
            yield Flaw(", ".join(p.label for p in alike), product=alike[0].id)


CHECK = Check(
    code="A502",
    name="equal-bodies",
    title="Equal bodies as different parts",
    severity=Severity.NOTE,
    why="Parts lists count them apart, and a change to one leaves the others as they were.",
    cure="Make them one part that is used several times.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
