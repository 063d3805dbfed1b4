"""Heavy splines."""

from __future__ import annotations

from gondrel.core.kernel.regroup import lighten_splines
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

_DEGREE = 8
"""Degree of the lighter splines at most; common practice among modellers, without a source."""

MEND = BodyMend(
    code="R113",
    name="lighten-splines",
    title="Make splines lighter",
    what="Splines of high degree or with crowded knots are laid anew within the tolerance.",
    cures=("G402", "G403"),
    order=65,
    is_safe=True,
    run=lambda work: lighten_splines(work.shapes[0], _DEGREE, work.limits.poles, work.tolerance),
)
