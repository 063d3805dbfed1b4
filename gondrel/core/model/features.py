"""Features of a solid that came without any: what was found again of how it was made."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from gondrel.core.model.geometry import Vector

__all__ = ["KINDS", "Feature"]

KINDS = (
    "hole",
    "counterbore",
    "countersink",
    "fillet",
    "chamfer",
    "boss",
    "pocket",
    "slot",
    "revolution",
    "shell",
    "rib",
    "thread",
    "pattern",
)
"""What is looked for."""


@dataclass(frozen=True, slots=True)
class Feature:
    """One feature of a solid.

    Args:
        kind: one of KINDS; sizes: mm and degrees by name, counts of patterns.
        faces: it has, in the order of the B-rep; members: of a pattern, places of features in their list.
        at, way: a point of its axis, or of it, and its direction, mm in the frame of the body; None where
            it has none.
        turned: of a hole: distances along its axis from where it starts, and radii there, mm.
        certainty: how sure it is, 0 to 1; evidence: what it was told by.
    """

    kind: str
    sizes: Mapping[str, float] = field(default_factory=dict)
    faces: tuple[int, ...] = ()
    at: Vector | None = None
    way: Vector | None = None
    certainty: float = 1.0
    evidence: str = ""
    members: tuple[int, ...] = ()
    turned: tuple[tuple[float, float], ...] = ()
