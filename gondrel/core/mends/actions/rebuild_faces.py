"""Faces that are not sound."""

from __future__ import annotations

from gondrel.core.kernel.repair.reface import rebuild_faces
from gondrel.core.mends.base import BodyMend

__all__ = ["MEND"]

MEND = BodyMend(
    code="R109",
    name="rebuild-faces",
    title="Make unsound faces anew within their neighbours",
    what=(
        "A face that is not sound is dropped and made again on its surface within the edges its "
        "neighbours leave; where those do not lie on it, the gap is filled smoothly."
    ),
    cures=("T106", "T108"),
    order=55,
    is_safe=True,
    is_single=True,
    run=lambda work: rebuild_faces(work.shapes[0], work.marked[0], work.tolerance),
)
