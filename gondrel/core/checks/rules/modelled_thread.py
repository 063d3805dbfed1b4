"""A thread modelled as a helix."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import helix_on
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.inspect.threads import helices_of
from gondrel.core.kernel.modelling.build import cylinder
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each diameter and pitch of helical edges."""
    reported: set[tuple[float, float]] = set()
    for helix in helices_of(body):
        key = (round(helix.diameter, 2), round(helix.pitch, 2))
        if key not in reported:
            reported.add(key)
            text = f"a helix of {helix.diameter:.4g} mm diameter rises {helix.pitch:.3g} mm a turn"
            yield Flaw(text, edge=helix.edge, point=helix.at, measured=helix.pitch)


CHECK = Check(
    code="G501",
    name="modelled-thread",
    title="Thread modelled as a helix",
    severity=Severity.NOTE,
    why="Its faces are many and hard to translate, and they often break.",
    cure="Ask for the part with plain cylinders and the thread as a note.",
    source="own",
    unit="mm",
    run=find,
    bad=lambda: helix_on(10.0, 1.5, 4.0),
    good=lambda: cylinder(5, 20),
)
