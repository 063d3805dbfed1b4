"""Two faces of a body in the same place."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.base.shape import faces_of, shell_of
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity
from gondrel.core.work.late import late

__all__ = ["CHECK"]

_spatial = late("scipy.spatial")


_NEAR = 1e-4
_SAME = 1e-6
_ROUGHLY = 0.01


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each face that another of the same kind, area and middle came before."""
    reported: set[int] = set()
    for one, other in _alike(body):
        area, middle = body.area_of(other), body.middle_of(other)
        is_same = math.isclose(area, body.area_of(one), rel_tol=_SAME, abs_tol=1e-12)
        if other not in reported and is_same and math.dist(middle, body.middle_of(one)) < _NEAR:
            reported.add(other)
            yield Flaw(f"it lies on face {one + 1}", face=other, point=middle, measured=area)


def _alike(body: Inspection) -> list[tuple[int, int]]:
    """Pairs of faces, the earlier first, of one kind, much the same area and middle of their edges."""
    coedges, faces = body.coedges, body.faces
    if not len(coedges):
        return []
    lengths = np.array([edge.length for edge in body.edges])[coedges.edge]
    around = np.bincount(coedges.face, lengths, len(faces))
    middles = body.samples.mean(axis=1)[coedges.edge] * lengths[:, None]
    sums = [np.bincount(coedges.face, middles[:, axis], len(faces)) for axis in range(3)]
    centres = np.stack(sums, axis=1) / np.maximum(around, 1e-300)[:, None]
    near = _spatial.cKDTree(centres).query_ball_point(centres, _ROUGHLY * around + _NEAR)
    return sorted(
        (one, other)
        for one, others in enumerate(near)
        for other in others
        if one < other
        and faces[one].kind == faces[other].kind
        and math.isclose(faces[one].area, faces[other].area, rel_tol=_ROUGHLY, abs_tol=_SAME)
    )


def _doubled() -> object:
    return shell_of([faces_of(block(10, 20, 30))[0], faces_of(block(10, 20, 30))[0]])


CHECK = Check(
    code="T107",
    name="duplicate-face",
    title="Face said twice",
    severity=Severity.FAULT,
    why="The skin is double there; areas count twice and solids fail.",
    cure="Drop one of them.",
    source="ISO 10303-59 duplicate face; SASIG-PDQ G-FA-EM (from memory)",
    unit="mm2",
    run=find,
    bad=_doubled,
    good=lambda: block(10, 20, 30),
)
