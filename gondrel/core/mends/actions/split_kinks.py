"""Splines that bend sharply."""

from __future__ import annotations

from gondrel.core.kernel.repair.regroup import split_at_kinks
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R112",
    name="split-kinks",
    title="Split curves and surfaces at kinks",
    what="Splines are cut in two where they bend sharply. Nothing moves.",
    cures=("G401",),
    order=60,
    is_safe=True,
    run=lambda work: split_at_kinks(work.shapes[0]),
)
