"""Faces said twice."""

from __future__ import annotations

from gondrel.core.kernel.repair.shells import drop_doubled
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R101",
    name="drop-doubled-faces",
    title="Drop faces said twice",
    what="Of faces that lie in the same place one is kept, and the skin is joined again.",
    cures=("T107", "T103"),
    order=10,
    is_safe=True,
    run=lambda work: drop_doubled(work.shapes[0], work.tolerance),
)
