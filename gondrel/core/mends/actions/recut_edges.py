"""Edges off their surfaces."""

from __future__ import annotations

from gondrel.core.kernel.repair.recut import recut_edges, widest_gap
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R108",
    name="recut-edges",
    title="Rebuild edges where surfaces meet",
    what=(
        "Edges that lie off a surface or end too early, and the vertices at their ends, are worked "
        "out again from the surfaces, which stay as they are. They may move by one and a half times "
        "the widest gap."
    ),
    cures=("G201", "G205", "G202", "G204"),
    order=45,
    is_single=True,
    run=lambda work: recut_edges(work.shapes[0], work.limits.gap, work.only),
    reach=lambda work: max(10 * work.tolerance, 1.5 * widest_gap(work.shapes[0])),
)
