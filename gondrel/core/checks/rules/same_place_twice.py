"""A component that stands twice in one place."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One fault for each component that stands where another of its part does."""
    for parent in structure.model.products:
        seen: dict[tuple[object, ...], str] = {}
        for use in parent.occurrences:
            key = (use.product, *(round(v, 6) for v in use.placement))
            if key in seen:
                names = f"{seen[key] or 'a component'} and {use.name or 'another'} in {parent.label}"
                yield Flaw(names, product=use.product)
            seen[key] = use.name


CHECK = Check(
    code="A504",
    name="same-place-twice",
    title="Same part twice in one place",
    severity=Severity.FAULT,
    why="Only one of them can be there; masses and parts lists count it twice.",
    cure="Drop one of the components.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
