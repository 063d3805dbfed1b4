"""A product that holds nothing."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for each product without bodies and components."""
    for product in structure.model.products:
        is_elsewhere = product.missing_file or product.unread is not None
        if not is_elsewhere and not product.bodies and not product.occurrences:
            yield Flaw("there is nothing in it", product=product.id)


CHECK = Check(
    code="A501",
    name="product-without-body",
    title="Product without a body",
    severity=Severity.DOUBT,
    why="It is a name without a thing: either its shape was lost on the way, or it is left over.",
    cure="Ask the sender for its shape, or leave it out of what is sent.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
