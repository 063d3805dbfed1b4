"""Neighbouring faces with a gap along their common edge."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.broken import shifted_plane
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """The widest gap along each edge, seen across it from surface to surface."""
    for number, gaps in body.along_edges.items():
        faces = tuple(dict.fromkeys(face for face, _ in body.edges[number].coedges))
        if len(faces) != 2 or all(gap.feet is None for gap in gaps):
            continue
        along = body.along(number)
        laid = {gap.face: gap.feet for gap in gaps if gap.feet is not None}
        feet = [laid.get(face, along) for face in faces]
        away = np.linalg.norm(feet[0] - feet[1], axis=1)
        worst = int(np.argmax(away))
        if away[worst] > limits.gap:
            one, other = faces
            text = f"face {one + 1} and face {other + 1} lie {away[worst]:.4g} mm apart there"
            x, y, z = (float(v) for v in along[worst])
            yield Flaw(
                text, face=one, edge=number, point=(x, y, z), measured=float(away[worst]), limit=limits.gap
            )


CHECK = Check(
    code="G205",
    name="face-off-face",
    title="Gap between neighbouring faces",
    severity=Severity.FAULT,
    why="The skin is open along that edge; cutting, hollowing and meshing fail there.",
    cure="Rebuild the edge where the surfaces meet.",
    source="ISO 10303-59 gap between adjacent faces; SASIG-PDQ G-SH-FG (from memory)",
    unit="mm",
    run=find,
    bad=lambda: shifted_plane(0.05),
    good=lambda: block(10, 20, 30),
)
