"""Shells of one solid that touch."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.base.shape import shells_of
from gondrel.core.kernel.examples.flawed import touching_cavity
from gondrel.core.kernel.geometry.distance import distance_between
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each pair of shells that come nearer than the shortest edge allowed."""
    shells = shells_of(body.shape)
    for place, one in enumerate(shells):
        for other in shells[place + 1 :]:
            away, at = distance_between(one, other)
            if away < limits.short:
                text = f"a wall of {away:.3g} mm is between two of its shells"
                yield Flaw(text, point=at, measured=away, limit=limits.short)


CHECK = Check(
    code="T111",
    name="touching-shells",
    title="Shells touch or nearly touch",
    severity=Severity.DOUBT,
    why="There is no wall left between them; a receiver makes them one or refuses the body.",
    cure="Move the cavity, or join it with the outside.",
    source="own",
    unit="mm",
    run=find,
    bad=lambda: touching_cavity(0.002),
    good=lambda: touching_cavity(1.0),
)
