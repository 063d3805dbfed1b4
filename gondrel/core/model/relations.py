"""What holds between curves of a profile, and sizes that can be given a new value."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["RELATIONS", "Freedom", "Relation", "Size", "Solved"]

RELATIONS = ("coincident", "level", "upright", "parallel", "square", "tangent", "equal", "concentric")


@dataclass(frozen=True, slots=True)
class Relation:
    """Something that holds between curves.

    Args:
        kind: of RELATIONS; curves: numbers, one for level and upright, two for the others.
        node: where curves meet, for coincident and tangent; else -1.
    """

    kind: str
    curves: tuple[int, ...]
    node: int = -1


@dataclass(frozen=True, slots=True)
class Size:
    """A size of a profile.

    Args:
        name: L1, R2, A3 or D4, as people are shown it; kind: length, radius, angle or distance.
        curves: numbers: one for length and radius, two lines for an angle; for a distance two round curves
            (of their centres), or a line and a round curve.
        value: mm or rad.
    """

    name: str
    kind: str
    curves: tuple[int, ...]
    value: float


@dataclass(frozen=True, slots=True)
class Freedom:
    """How a profile is held.

    Args:
        degrees: in how many ways it can still be changed, without being shifted or turned as a whole.
        free: numbers of the curves that can change; too_much: how many conditions say what others say.
    """

    degrees: int
    free: tuple[int, ...]
    too_much: int


@dataclass(frozen=True, slots=True)
class Solved:
    """A profile after its sizes were given new values.

    Args:
        worst: by how much the worst condition is off, mm (rad times the size of the profile for angles).
    """

    worst: float
    freedom: Freedom
