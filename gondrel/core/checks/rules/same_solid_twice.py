"""Two placed solids that are the same volume."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.overlap import Shared, Sharing, overlap_flaws
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(pairs: Iterable[Shared], limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for each such pair."""
    return overlap_flaws(pairs, Sharing.SAME)


CHECK = Check(
    code="A510",
    name="same-solid-twice",
    title="Same solid twice",
    severity=Severity.DOUBT,
    why="They can't both be there; masses count twice and assemblies can't be built.",
    cure="Drop one of them.",
    source="ISO 10303-59 solids overlap (from memory)",
    scope=Scope.PLACED,
    run=find,
    unit="mm3",
)
