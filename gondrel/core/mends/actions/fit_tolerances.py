"""Tolerances wider than needed."""

from __future__ import annotations

from gondrel.core.kernel.repair.fitting import fit_tolerances
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R107",
    name="fit-tolerances",
    title="Make tolerances as small as the gaps allow",
    what=(
        "Edges and vertices get the least tolerance that covers the gaps there are, and their "
        "parameters on surfaces are made to run alike. Nothing moves."
    ),
    cures=("G203",),
    order=50,
    is_safe=True,
    run=lambda work: fit_tolerances(work.shapes[0]),
)
