"""A profile as numbers that can be solved for: its nodes, and centres and radii of its round curves."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.outline import Arc, Curve, FlatEllipse, FlatLine, Point, Spline
from gondrel.core.model.profile import Profile
from gondrel.core.sheet.joining import with_ends

__all__ = ["Unknowns"]

Floats = NDArray[np.float64]

_TURN = 2 * math.pi


@dataclass(frozen=True, slots=True)
class Unknowns:
    """Where in the row of numbers each thing of a profile stands.

    Args:
        profile: as it was; centres: for each curve where its centre's x stands, y and radius after it; -1
            for a curve that has none of its own.
        start: the numbers as they are, mm.
    """

    profile: Profile
    centres: tuple[int, ...]
    start: Floats

    @classmethod
    def of(cls, profile: Profile) -> Unknowns:
        """The numbers of a profile."""
        numbers: list[float] = [value for node in profile.nodes for value in node]
        centres = []
        for curve in profile.curves:
            centres.append(len(numbers) if isinstance(curve, Arc) else -1)
            if isinstance(curve, Arc):
                numbers += [*curve.centre, curve.radius]
        return cls(profile, tuple(centres), np.array(numbers))

    def node(self, number: int) -> int:
        """Where the x of a node stands."""
        return 2 * number

    def is_line(self, curve: int) -> bool:
        """Whether a curve is straight."""
        return isinstance(self.profile.curves[curve], FlatLine)

    def is_round(self, curve: int) -> bool:
        """Whether a curve is an arc or a circle."""
        return isinstance(self.profile.curves[curve], Arc)

    def is_open_arc(self, curve: int) -> bool:
        """Whether a curve is an arc with two ends."""
        return self.is_round(curve) and self.profile.ends[curve] != (-1, -1)

    def taken(self, numbers: Floats) -> Profile:
        """The profile that numbers stand for; regions are not found anew."""
        nodes = tuple(
            (float(x), float(y)) for x, y in numbers[: 2 * len(self.profile.nodes)].reshape(-1, 2)
        )
        curves = tuple(self._curve(number, numbers, nodes) for number in range(len(self.profile.curves)))
        return replace(self.profile, curves=curves, nodes=nodes)

    def _curve(self, number: int, numbers: Floats, nodes: tuple[Point, ...]) -> Curve:
        curve, (first, last) = self.profile.curves[number], self.profile.ends[number]
        if isinstance(curve, FlatLine):
            return FlatLine(nodes[first], nodes[last])
        if isinstance(curve, Arc):
            x, y, radius = numbers[self.centres[number] : self.centres[number] + 3].tolist()
            if first < 0:
                return Arc((x, y), radius, curve.start, curve.end)
            begin, end = (math.atan2(nodes[n][1] - y, nodes[n][0] - x) for n in (first, last))
            begin = curve.start + _nearest(begin - curve.start)
            return Arc((x, y), radius, begin, begin + (end - begin) % _TURN)
        if first < 0:
            return curve
        assert isinstance(curve, FlatEllipse | Spline)
        return with_ends(curve, nodes[first], nodes[last])


def _nearest(turn: float) -> float:
    """An angle less than half a turn either way."""
    return (turn + math.pi) % _TURN - math.pi
