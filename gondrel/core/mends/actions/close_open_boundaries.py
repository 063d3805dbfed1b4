"""Open rims."""

from __future__ import annotations

from gondrel.core.kernel.repair.shells import close_open_boundaries
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R104",
    name="close-rims",
    title="Close open rims and make a solid",
    what=(
        "Rims in one plane are closed by a plane face, an inner rim as its hole; others are filled. "
        "Smooth, if asked for: every rim is filled so that the face runs on from its neighbours."
    ),
    cures=("T101", "T102", "A506"),
    order=80,
    takes_all=True,
    is_single=True,
    run=lambda work: close_open_boundaries(work.shapes, work.tolerance, smooth=work.smooth, near=work.near),
)
