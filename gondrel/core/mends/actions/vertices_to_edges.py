"""Vertices off their edges."""

from __future__ import annotations

from gondrel.core.kernel.repair.fitting import vertices_to_edges, widest_tolerance
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R106",
    name="vertices-to-edges",
    title="Put vertices where their edges end",
    what=(
        "A vertex goes to where most of its edges end; the others are trimmed or lengthened to it. "
        "It may move as far as the body itself says it is true."
    ),
    cures=("G202", "G204"),
    order=40,
    is_safe=True,
    run=lambda work: vertices_to_edges(work.shapes[0], work.tolerance),
    reach=lambda work: max(10 * work.tolerance, widest_tolerance(work.shapes[0])),
)
