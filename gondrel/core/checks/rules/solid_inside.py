"""A placed solid that lies whole in another."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.overlap import Shared, Sharing, overlap_flaws
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(pairs: Iterable[Shared], limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for each such pair."""
    return overlap_flaws(pairs, Sharing.WHOLE)


CHECK = Check(
    code="A509",
    name="solid-inside",
    title="Solid inside another",
    severity=Severity.DOUBT,
    why="They can't both be there; masses count twice and assemblies can't be built.",
    cure="Move one of them, take one out of the other, or drop one.",
    source="ISO 10303-59 solids overlap (from memory)",
    scope=Scope.PLACED,
    run=find,
    unit="mm3",
)
