"""A body as it stands about its main axis: what is round about it and what is flat beside it."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Axial", "Flat", "Round"]


@dataclass(frozen=True, slots=True)
class Round:
    """A cylinder or cone about an axis.

    Args:
        offset: how far its axis lies off the main one, mm.
        radius: mm, at its wider end; narrow: at its other end, the same for a cylinder.
        low, high: where it begins and ends along the axis, mm.
        is_outside: whether material lies within it.
    """

    offset: float
    radius: float
    narrow: float
    low: float
    high: float
    is_outside: bool


@dataclass(frozen=True, slots=True)
class Flat:
    """A plane along an axis.

    Args:
        distance: from the axis, mm, below zero where it looks towards it.
        angle: of its normal about the axis, rad, from 0 to 2 pi.
        low, high: where it begins and ends along the axis, mm.
    """

    distance: float
    angle: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Axial:
    """A body about its main axis, along which lengths are counted from its lowest point.

    Args:
        length: mm; others: how many faces are neither round about a parallel axis, nor along nor across it.
        across: planes across the axis: where, and whether they look up.
    """

    length: float
    rounds: tuple[Round, ...]
    flats: tuple[Flat, ...]
    across: tuple[tuple[float, bool], ...]
    others: int = 0

    def outside(self) -> tuple[Round, ...]:
        """Cylinders about the main axis with material within, the widest first."""
        return self._coaxial(is_outside=True)

    def inside(self) -> tuple[Round, ...]:
        """Cylinders about the main axis with material around, the widest first."""
        return self._coaxial(is_outside=False)

    def _coaxial(self, *, is_outside: bool) -> tuple[Round, ...]:
        chosen = (
            r for r in self.rounds
            if r.is_outside == is_outside and r.offset < 1e-4 and r.radius - r.narrow < 1e-9
        )  # fmt: skip
        return tuple(sorted(chosen, key=lambda r: (-r.radius, r.low)))
