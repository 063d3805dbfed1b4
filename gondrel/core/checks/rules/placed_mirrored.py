"""A component whose place is no rigid motion."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]

_RIGID = 1e-6


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for each such component."""
    for parent, use in structure.model.occurrences():
        matrix = np.asarray(use.placement).reshape(4, 4)[:3, :3]
        if np.abs(matrix @ matrix.T - np.eye(3)).max() > _RIGID or np.linalg.det(matrix) < 0:
            yield Flaw(f"{use.name or use.id} in {parent.label}", product=use.product)


CHECK = Check(
    code="A503",
    name="placed-mirrored",
    title="Placed mirrored or scaled",
    severity=Severity.DOUBT,
    why="Most modellers place parts only by a rigid motion; others make a copy of the part or refuse it.",
    cure="Make a part of the mirrored or scaled shape and place that.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
