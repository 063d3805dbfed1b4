"""A name or number with blanks at its ends, or signs that do not print."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for each such text."""
    for product in structure.model.products:
        for text in (product.name, product.number):
            if text.strip() and (text != text.strip() or not text.isprintable()):
                yield Flaw(f"{text!r}: blanks at its ends, or signs that don't print", product=product.id)


CHECK = Check(
    code="M605",
    name="odd-characters",
    title="Name or number with odd characters",
    severity=Severity.DOUBT,
    why="Two names that look alike are not the same, and searches and parts lists miss one.",
    cure="Take the blanks and signs away.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
