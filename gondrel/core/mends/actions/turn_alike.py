"""Faces turned against one another."""

from __future__ import annotations

from gondrel.core.kernel.repair.shells import turn_alike
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R102",
    name="turn-alike",
    title="Turn faces alike, material inside",
    what=(
        "Faces of each skin are turned as their neighbours are, and the skin so that the material "
        "is inside. Nothing moves."
    ),
    cures=("T104", "T105"),
    order=20,
    is_safe=True,
    run=lambda work: turn_alike(work.shapes[0]),
)
