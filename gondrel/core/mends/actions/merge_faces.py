"""Faces of one surface."""

from __future__ import annotations

from gondrel.core.kernel.repair.regroup import merge_faces
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R111",
    name="merge-faces",
    title="Merge faces that lie on one surface",
    what=(
        "Neighbouring faces on the same surface become one, flat facets too; faces of different "
        "colours stay apart."
    ),
    cures=("G406", "G411"),
    order=95,
    is_safe=True,
    is_asked=True,
    is_single=True,
    run=lambda work: merge_faces(work.shapes[0], work.looks[0], work.tolerance, work.only),
)
