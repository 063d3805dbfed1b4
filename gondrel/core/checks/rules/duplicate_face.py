"""Two faces of a body in the same place."""

from __future__ import annotations

import math
from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.build import block
from gondrel.core.kernel.inspection import Inspection
from gondrel.core.kernel.shape import faces_of, shell_of
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


_NEAR = 1e-4


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each face that another of the same kind, area and middle came before."""
    seen: dict[tuple[str, int], list[int]] = {}
    for face in body.faces:
        key = (face.kind, round(math.log(max(face.area, 1e-12)) / 1e-6))
        for other in (o for k in (-1, 0, 1) for o in seen.get((key[0], key[1] + k), ())):
            if math.dist(face.middle, body.faces[other].middle) < _NEAR:
                text = f"it lies on face {other + 1}"
                yield Flaw(text, face=face.index, point=face.middle, measured=face.area)
                break
        seen.setdefault(key, []).append(face.index)


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
    examines="faces",
    run=find,
    bad=_doubled,
    good=lambda: block(10, 20, 30),
)
