"""Which relations hold between the curves of a profile, and which sizes it has."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np

from gondrel.core.model.outline import Arc, FlatLine
from gondrel.core.model.profile import Profile
from gondrel.core.model.relations import Relation, Size
from gondrel.core.sheet.curve_sizes import curve_length, tangents_of

__all__ = ["relations_of", "sizes_of"]

_ANGLE = 1e-6
"""Directions that differ by less, rad, are the same."""
_LENGTH = 1e-6
"""Lengths and places that differ by less, mm, are the same."""


def relations_of(profile: Profile) -> tuple[Relation, ...]:
    """Every relation that holds, told once: of equal, parallel or concentric curves with the first."""
    lines = [n for n, curve in enumerate(profile.curves) if isinstance(curve, FlatLine)]
    rounds = [n for n, curve in enumerate(profile.curves) if isinstance(curve, Arc)]
    return (
        *_meeting(profile),
        *_directions(profile, lines),
        *_tangents(profile),
        *_alike(rounds, [_arc(profile, n).radius for n in rounds], "equal"),
        *_alike(lines, [curve_length(profile.curves[n]) for n in lines], "equal"),
        *_concentric(profile, rounds),
    )


def _arc(profile: Profile, number: int) -> Arc:
    curve = profile.curves[number]
    assert isinstance(curve, Arc)
    return curve


def _at_nodes(profile: Profile) -> dict[int, list[int]]:
    meeting: defaultdict[int, list[int]] = defaultdict(list)
    for number, ends in enumerate(profile.ends):
        for node in ends:
            if node >= 0:
                meeting[node].append(number)
    return meeting


def _meeting(profile: Profile) -> Iterator[Relation]:
    for node, curves in sorted(_at_nodes(profile).items()):
        for one, other in pairwise(curves):
            yield Relation("coincident", (one, other), node)


def _directions(profile: Profile, lines: Sequence[int]) -> Iterator[Relation]:
    slanted: list[tuple[int, float]] = []
    for number in lines:
        along = tangents_of(profile.curves[number])[0]
        if abs(along[1]) < _ANGLE:
            yield Relation("level", (number,))
        elif abs(along[0]) < _ANGLE:
            yield Relation("upright", (number,))
        else:
            slanted.append((number, math.atan2(along[1], along[0]) % math.pi))
    first: list[tuple[int, float]] = []
    for number, angle in slanted:
        for other, known in first:
            apart = abs((angle - known + math.pi / 2) % math.pi - math.pi / 2)
            if apart < _ANGLE:
                yield Relation("parallel", (other, number))
                break
            if abs(apart - math.pi / 2) < _ANGLE:
                yield Relation("square", (other, number))
                break
        else:
            first.append((number, angle))


def _tangents(profile: Profile) -> Iterator[Relation]:
    for node, curves in sorted(_at_nodes(profile).items()):
        for place, one in enumerate(curves):
            for other in curves[place + 1 :]:
                kinds = {type(profile.curves[n]) for n in (one, other)}
                if one == other or Arc not in kinds or not kinds <= {Arc, FlatLine}:
                    continue
                ways = [tangents_of(profile.curves[n])[profile.ends[n].index(node)] for n in (one, other)]
                if abs(float(ways[0][0] * ways[1][1] - ways[0][1] * ways[1][0])) < _ANGLE:
                    if kinds == {Arc} and _is_same_circle(profile, one, other):
                        continue
                    yield Relation("tangent", (one, other), node)


def _is_same_circle(profile: Profile, one: int, other: int) -> bool:
    return math.dist(_arc(profile, one).centre, _arc(profile, other).centre) < _LENGTH


def _alike(numbers: Sequence[int], values: Sequence[float], kind: str) -> Iterator[Relation]:
    first: list[tuple[int, float]] = []
    for number, value in sorted(zip(numbers, values, strict=True)):
        for other, known in first:
            if abs(known - value) < _LENGTH:
                yield Relation(kind, (other, number))
                break
        else:
            first.append((number, value))


def _concentric(profile: Profile, rounds: Sequence[int]) -> Iterator[Relation]:
    first: list[int] = []
    for number in rounds:
        for other in first:
            if _is_same_circle(profile, other, number):
                yield Relation("concentric", (other, number))
                break
        else:
            first.append(number)


def sizes_of(profile: Profile) -> tuple[Size, ...]:
    """Sizes that can be given a new value: lengths, radii, angles of lines that meet, distances of centres
    and of lines of one direction."""
    made: list[Size] = []

    def add(letter: str, kind: str, curves: tuple[int, ...], value: float) -> None:
        made.append(Size(f"{letter}{1 + sum(s.kind == kind for s in made)}", kind, curves, value))

    for number, curve in enumerate(profile.curves):
        if isinstance(curve, FlatLine):
            add("L", "length", (number,), curve_length(curve))
        elif isinstance(curve, Arc):
            add("R", "radius", (number,), curve.radius)
    for _, curves in sorted(_at_nodes(profile).items()):
        if len(curves) == 2 and all(isinstance(profile.curves[n], FlatLine) for n in curves):
            one, other = (np.subtract(c.end, c.start) for c in map(profile.curves.__getitem__, curves)
                          if isinstance(c, FlatLine))  # fmt: skip
            angle = math.atan2(one[0] * other[1] - one[1] * other[0], float(one @ other))
            add("A", "angle", tuple(curves), angle)
    centres: list[int] = []
    for number, curve in enumerate(profile.curves):
        if isinstance(curve, Arc) and profile.ends[number] == (-1, -1):
            for other in centres[-1:]:
                apart = math.dist(_arc(profile, other).centre, curve.centre)
                if apart > _LENGTH:
                    add("D", "distance", (other, number), apart)
            centres.append(number)
    for number in centres:
        for line in [n for n, c in enumerate(profile.curves) if isinstance(c, FlatLine)][:2]:
            add("D", "distance", (line, number), _height(profile, line, number))
    return tuple(made)


def _height(profile: Profile, line: int, round_one: int) -> float:
    straight = profile.curves[line]
    assert isinstance(straight, FlatLine)
    along = np.subtract(straight.end, straight.start)
    away = np.subtract(_arc(profile, round_one).centre, straight.start)
    return abs(float(along[0] * away[1] - along[1] * away[0])) / float(np.linalg.norm(along))
