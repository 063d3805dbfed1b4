"""Skins that are not joined."""

from __future__ import annotations

from gondrel.core.kernel.repair.shells import sew_shells
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R103",
    name="join",
    title="Join skins along common edges",
    what=(
        "Edges that lie within the tolerance of one another are made one; skins that close become solids."
    ),
    cures=("T101", "T102", "A506"),
    order=70,
    is_safe=True,
    takes_all=True,
    run=lambda work: sew_shells(work.shapes, work.tolerance),
)
