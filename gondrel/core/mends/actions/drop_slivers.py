"""Slivers and tiny faces."""

from __future__ import annotations

from contextlib import suppress

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import kind_of
from gondrel.core.kernel.inspect.inspection import inspect_shape
from gondrel.core.kernel.repair.fitting import vertices_to_edges
from gondrel.core.kernel.repair.regroup import merge_faces
from gondrel.core.kernel.repair.shells import Made, drop_slivers
from gondrel.core.mends.base import BodyMend, BodyWork

__all__ = ["MEND"]

_SLIVER = 0.02
"""Width up to which a face is removed, mm: twice what the checks call too narrow."""


def run(work: BodyWork) -> Made:
    """Slivers that lie on a neighbour's surface go into it; others are removed and their rims joined."""
    shape = work.shapes[0]
    made: Made = [(kind_of(shape), shape)]
    if work.marked[0]:
        with suppress(KernelRefused):  # it says that none lies on a neighbour's surface
            made = merge_faces(shape, work.looks[0], work.tolerance, only=work.marked[0])
    size = max(_SLIVER, 2 * work.tolerance)
    if all(not _has_slivers(body, size) for _, body in made):
        return made
    bare = [part for _, body in made for part in drop_slivers(body, size)]
    return [part for _, body in bare for part in vertices_to_edges(body, 2 * size)]


def _has_slivers(shape: object, size: float) -> bool:
    body = inspect_shape(shape)
    narrow = any(f.width < size for f in body.faces)
    return narrow or any(0 < e.length < size and not e.is_degenerate for e in body.edges)


MEND = BodyMend(
    code="R105",
    name="drop-slivers",
    title="Remove slivers and tiny faces",
    what=(
        "Faces narrower than 0.02 mm, or twice the tolerance, go into a neighbour that lies on the "
        "same surface; others are removed and their neighbours meet in one edge."
    ),
    cures=("G302", "G301"),
    order=30,
    is_safe=True,
    run=run,
)
