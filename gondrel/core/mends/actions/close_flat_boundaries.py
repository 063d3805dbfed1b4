"""Flat faces that a solid lacks."""

from __future__ import annotations

from gondrel.core.kernel.repair.shells import close_open_boundaries
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R116",
    name="close-flat-rims",
    title="Give a solid the flat faces it lacks",
    what=(
        "A solid whose open rims each lie in one plane gets those faces; what is there stays as it is. "
        "With any other rim it is left alone."
    ),
    cures=("T101",),
    order=78,
    is_safe=True,
    run=lambda work: close_open_boundaries(work.shapes, work.tolerance, only_flat=True),
)
