"""Faces taken away."""

from __future__ import annotations

from gondrel.core.kernel.repair.reface import remove_steps
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R114",
    name="remove-faces",
    title="Remove faces and extend their neighbours",
    what=(
        "The faces pointed at are taken away and their neighbours extended until they meet; of two "
        "parallel neighbours the smaller goes too."
    ),
    cures=("G302", "G306"),
    order=97,
    is_asked=True,
    is_single=True,
    run=lambda work: remove_steps(work.shapes[0], work.marked[0]),
)
