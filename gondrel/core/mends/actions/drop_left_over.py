"""Edges and vertices that bound nothing."""

from __future__ import annotations

from gondrel.core.kernel.repair.shells import drop_left_over
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R115",
    name="drop-left-over",
    title="Drop edges and points that bound nothing",
    what="Edges and vertices inside a body that bound no face are dropped. Faces stay.",
    cures=("T109",),
    order=25,
    is_safe=True,
    run=lambda work: drop_left_over(work.shapes[0]),
)
