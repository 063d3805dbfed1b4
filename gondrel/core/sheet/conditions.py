"""Conditions between curves of a profile as functions of its numbers, with their derivatives.

Every condition is 0 where it holds and is told in mm: angles are multiplied by the lengths they turn.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.relations import Relation, Size
from gondrel.core.sheet.unknowns import Unknowns

__all__ = ["conditions", "derivatives", "preferences"]

Floats = NDArray[np.float64]

_STEP = 1e-20


def conditions(unknowns: Unknowns, relations: list[Relation], sizes: list[Size], numbers: Floats) -> Floats:
    """What must be 0: arcs pass through their ends, relations hold, sizes are as given. Complex numbers are
    taken as well, for derivatives.

    Source: distances and directions of analytic geometry.
    """
    made: list[Floats] = []
    point = _Points(unknowns, numbers)
    for number in range(len(unknowns.profile.curves)):
        if unknowns.is_open_arc(number):
            centre, radius = point.centre(number), point.radius(number)
            made += [_length(end - centre) - radius for end in point.ends(number)]
    for relation in relations:
        made += list(_relation(unknowns, relation, point))
    made += [_size(unknowns, size, point) for size in sizes]
    return np.array(made)


class _Points:
    def __init__(self, unknowns: Unknowns, numbers: Floats) -> None:
        self._unknowns, self._numbers = unknowns, numbers

    def node(self, number: int) -> Floats:
        at = self._unknowns.node(number)
        return self._numbers[at : at + 2]

    def ends(self, curve: int) -> tuple[Floats, Floats]:
        first, last = self._unknowns.profile.ends[curve]
        return self.node(first), self.node(last)

    def along(self, curve: int) -> Floats:
        first, last = self.ends(curve)
        return np.asarray(last - first)

    def centre(self, curve: int) -> Floats:
        at = self._unknowns.centres[curve]
        return self._numbers[at : at + 2]

    def radius(self, curve: int) -> Floats:
        return np.asarray(self._numbers[self._unknowns.centres[curve] + 2])


def _length(way: Floats) -> Floats:
    return np.asarray(np.sqrt(way[0] * way[0] + way[1] * way[1]))


def _cross(one: Floats, other: Floats) -> Floats:
    return np.asarray(one[0] * other[1] - one[1] * other[0])


def _dot(one: Floats, other: Floats) -> Floats:
    return np.asarray(one[0] * other[0] + one[1] * other[1])


def _relation(unknowns: Unknowns, relation: Relation, point: _Points) -> Iterator[Floats]:
    kind, curves = relation.kind, relation.curves
    if kind == "level":
        yield np.asarray(point.along(curves[0])[1])
    elif kind == "upright":
        yield np.asarray(point.along(curves[0])[0])
    elif kind in ("parallel", "square"):
        one, other = point.along(curves[0]), point.along(curves[1])
        yield (_cross if kind == "parallel" else _dot)(one, other) / _length(other)
    elif kind == "equal":
        if unknowns.is_line(curves[0]):
            yield _length(point.along(curves[0])) - _length(point.along(curves[1]))
        else:
            yield point.radius(curves[0]) - point.radius(curves[1])
    elif kind == "concentric":
        apart = point.centre(curves[0]) - point.centre(curves[1])
        yield np.asarray(apart[0])
        yield np.asarray(apart[1])
    elif kind == "tangent":
        yield _tangent(unknowns, relation, point)


def _tangent(unknowns: Unknowns, relation: Relation, point: _Points) -> Floats:
    """A line is square to the radius where it meets an arc; two arcs meet on the line of their centres."""
    one, other = relation.curves
    if unknowns.is_line(other):
        one, other = other, one
    at = point.node(relation.node)
    if unknowns.is_line(one):
        along = point.along(one)
        return _dot(along, at - point.centre(other)) / _length(along)
    apart = point.centre(one) - point.centre(other)
    return _cross(at - point.centre(one), at - point.centre(other)) / _length(apart)


def _size(unknowns: Unknowns, size: Size, point: _Points) -> Floats:
    first, last = size.curves[0], size.curves[-1]
    if size.kind == "length":
        return np.asarray(_length(point.along(first)) - size.value)
    if size.kind == "radius":
        return np.asarray(point.radius(first) - size.value)
    if size.kind == "angle":
        one, other = point.along(first), point.along(last)
        turn = np.cos(size.value) * _cross(one, other) - np.sin(size.value) * _dot(one, other)
        return np.asarray(turn / _length(other))
    if unknowns.is_round(first) and unknowns.is_round(last):
        return np.asarray(_length(point.centre(first) - point.centre(last)) - size.value)
    along, start = point.along(first), point.ends(first)[0]
    middle = point.centre(last) if unknowns.is_round(last) else sum(point.ends(last)) / 2
    height = _cross(along, middle - start) / _length(along)
    side = np.sign(np.real(height)) or 1.0
    return np.asarray(side * height - size.value)


def preferences(unknowns: Unknowns, numbers: Floats) -> list[Floats]:
    """What should stay as it is where it can, what matters most first: radii, lengths, the lowest node at
    the left, all places."""
    point = _Points(unknowns, numbers)
    count = range(len(unknowns.profile.curves))
    radii = [point.radius(n) for n in count if unknowns.is_round(n)]
    lengths = [_length(point.along(n)) for n in count if unknowns.is_line(n)]
    nodes = unknowns.profile.nodes
    anchor = min(range(len(nodes)), key=lambda n: (sum(nodes[n]), nodes[n])) if nodes else None
    first = numbers[:2] if anchor is None else point.node(anchor)
    wishes = [np.array(radii), np.array(lengths), first, numbers]
    return [wish for wish in wishes if len(wish)]


def derivatives(of: object, numbers: Floats) -> Floats:
    """The derivatives of a function of the numbers, (values, numbers).

    Source: complex-step differentiation, exact to rounding for analytic functions.
    """
    columns = []
    turned = numbers.astype(complex)
    for place in range(len(numbers)):
        turned[place] += 1j * _STEP
        columns.append(np.imag(of(turned)) / _STEP)  # type: ignore[operator]
        turned[place] = numbers[place]
    return np.stack(columns, axis=1)
