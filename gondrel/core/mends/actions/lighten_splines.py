"""Heavy splines."""

from __future__ import annotations

from gondrel.core.kernel.repair.regroup import lighten_splines
from gondrel.core.kernel.repair.shells import Made
from gondrel.core.mends.base import BodyMend, BodyWork

__all__ = ["MEND"]


def run(work: BodyWork) -> Made:
    """The body with lighter splines. Raises KernelRefused."""
    limits = work.limits
    return lighten_splines(work.shapes[0], limits.degree, limits.poles, limits.knots, work.tolerance)


MEND = BodyMend(
    code="R113",
    name="lighten-splines",
    title="Make splines lighter",
    what=(
        "Splines of too high a degree are laid anew with a lower one, and crowded knots are removed, "
        "within the tolerance."
    ),
    cures=("G402", "G403"),
    order=65,
    is_safe=True,
    run=run,
)
