"""Slivers and tiny faces."""

from __future__ import annotations

from gondrel.core.kernel.mending import drop_slivers
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

_SLIVER = 0.02
"""Width up to which a face is removed, mm: twice what the checks call too narrow."""

MEND = BodyMend(
    code="R105",
    name="drop-slivers",
    title="Remove slivers and tiny faces",
    what=(
        "Faces narrower than 0.02 mm, or twice the tolerance, are removed and their neighbours meet "
        "in one edge."
    ),
    cures=("G302", "G301"),
    order=30,
    is_safe=True,
    run=lambda work: drop_slivers(work.shapes[0], max(_SLIVER, 2 * work.tolerance)),
)
