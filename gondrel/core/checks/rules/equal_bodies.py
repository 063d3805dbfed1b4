"""Products whose bodies are the same, wherever they stand in them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from contextlib import suppress

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.derive import facts_of
from gondrel.core.likeness.stored import like_bodies
from gondrel.core.model.findings import CheckLimits, Severity
from gondrel.core.model.product import Product

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each group of products with the same bodies; of parts of one body also where it is moved
    or turned in one of them. Mirror images are not the same."""
    same = _first_of_each_shape(structure)
    owners: dict[tuple[str, ...], list[Product]] = defaultdict(list)
    for product in structure.model.products:
        if len(product.bodies) == 1:
            blob = product.bodies[0].blob
            owners[(same.get(blob, blob),)].append(product)
        elif product.bodies:
            owners[tuple(sorted(b.blob for b in product.bodies))].append(product)
    for alike in owners.values():
        if len(alike) > 1:
            yield Flaw(", ".join(p.label for p in alike), product=alike[0].id)


def _first_of_each_shape(structure: Structure) -> dict[str, str]:
    """Each blob of a part of one body to the first of its shape."""
    facts = {}
    for product in structure.model.products:
        if len(product.bodies) == 1 and not product.is_reference:
            with suppress(KernelRefused):
                blob = product.bodies[0].blob
                facts[blob] = facts_of(structure.store, blob)
    groups = like_bodies(list(facts), facts, structure.store)
    return {blob: group.first for group in groups for blob in group.members}


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
