"""Holes by their cylinders, the cones and shoulders along their axis, and the way they end."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gondrel.core.features.grooved import grooved_bores
from gondrel.core.features.lines import SAME, same_axis
from gondrel.core.model.face_graph import FaceGraph, SolidFace
from gondrel.core.model.features import Feature
from gondrel.core.model.geometry import vector_of
from gondrel.core.model.measures import RoundHole

__all__ = ["find_holes"]

_TOUCH = 1e-3
"""How far apart, mm, pieces of one hole may lie along its axis."""


@dataclass(slots=True)
class _Piece:
    """A piece of a hole along its axis: a cylinder, or a cone, with its radii at both ends."""

    low: float
    high: float
    radius_low: float
    radius_high: float
    faces: tuple[int, ...]
    is_through: bool = False

    @property
    def is_cone(self) -> bool:
        return abs(self.radius_low - self.radius_high) > SAME

    @property
    def narrowest(self) -> float:
        return min(self.radius_low, self.radius_high)

    @property
    def widest(self) -> float:
        return max(self.radius_low, self.radius_high)

    def turned(self) -> _Piece:
        return _Piece(-self.high, -self.low, self.radius_high, self.radius_low, self.faces, self.is_through)


def find_holes(graph: FaceGraph, round_holes: Sequence[RoundHole]) -> list[Feature]:
    """Plain, blind, counterbored, countersunk and stepped holes, and bores with a keyway.

    Args:
        round_holes: the round holes of the solid, one for each diameter of a hole.
    """
    grooved = grooved_bores(graph, {face for hole in round_holes for face in hole.faces})
    opened = {face for hole in grooved for face in hole.faces}
    left = [*round_holes, *grooved]
    cones = [face for face in graph.faces if face.kind == "cone" and face.is_hollow]
    features = []
    while left:
        first = left.pop(0)
        same = [h for h in left if same_axis(h.point, h.direction, first.point, first.direction)]
        left = [h for h in left if h not in same]
        pieces = [_cylinder(hole, first) for hole in (first, *same)]
        pieces += _cones(cones, first)
        features += [_feature(stack, graph, first, opened) for stack in _stacks(pieces)]
    return features


def _cylinder(hole: RoundHole, frame: RoundHole) -> _Piece:
    along = float(np.dot(hole.direction, frame.direction))
    start = float(np.dot(np.subtract(hole.point, frame.point), frame.direction))
    ends = sorted((start, start + math.copysign(hole.depth, along)))
    radius = hole.diameter / 2
    return _Piece(ends[0], ends[1], radius, radius, hole.faces, hole.is_through)


def _cones(cones: Sequence[SolidFace], frame: RoundHole) -> list[_Piece]:
    """Hollow cones about an axis, the faces of one that is split put together."""
    found: dict[tuple[float, ...], _Piece] = {}
    for face in cones:
        if not same_axis(face.at, face.way, frame.point, frame.direction):
            continue
        along = math.copysign(1.0, float(np.dot(face.way, frame.direction)))
        foot = float(np.dot(np.subtract(face.at, frame.point), frame.direction))
        ends = [
            (foot + along * h, abs(face.radius + h * math.tan(face.angle))) for h in (face.low, face.high)
        ]
        (low, radius_low), (high, radius_high) = sorted(ends)
        key = tuple(round(v, 3) for v in (low, high, radius_low, radius_high))
        faces = (*found[key].faces, face.index) if key in found else (face.index,)
        found[key] = _Piece(low, high, radius_low, radius_high, faces)
    return list(found.values())


def _stacks(pieces: list[_Piece]) -> list[list[_Piece]]:
    """Pieces that follow one another without a gap; cones alone are none."""
    stacks: list[list[_Piece]] = []
    for piece in sorted(pieces, key=lambda p: (p.low, p.high)):
        if stacks and piece.low - max(p.high for p in stacks[-1]) < _TOUCH:
            stacks[-1].append(piece)
        else:
            stacks.append([piece])
    return [stack for stack in stacks if any(not piece.is_cone for piece in stack)]


def _feature(stack: list[_Piece], graph: FaceGraph, frame: RoundHole, opened: set[int]) -> Feature:
    """What a stack of pieces is, looked at from its wider end."""
    way = np.asarray(frame.direction)
    at_low, at_high = stack[0], stack[-1]
    if at_high.radius_high > at_low.radius_low + SAME:  # it opens at the other end
        stack = [piece.turned() for piece in reversed(stack)]
        way = -way
    cylinders = [piece for piece in stack if not piece.is_cone]
    cones = [piece for piece in stack if piece.is_cone]
    narrow = min(cylinders, key=lambda piece: piece.radius_low)
    point = next((c for c in cones if c.narrowest < SAME and c.low > narrow.low), None)
    sinks = [c for c in cones if c is not point]
    is_through = narrow.is_through and point is None
    sizes: dict[str, float] = {"diameter": 2 * narrow.radius_low}
    bottom = _bottom(stack, graph, frame, way) if not is_through and point is None else ()
    own = {f for piece in stack for f in piece.faces}
    faces = tuple(sorted(own | set(bottom) | _shoulders(own, graph, way)))
    start = np.asarray(frame.point) + np.asarray(frame.direction) * (
        stack[0].low if way @ np.asarray(frame.direction) > 0 else -stack[0].low
    )
    sizes["depth"] = (narrow.high if is_through else cylinders[-1].high) - stack[0].low
    told = "through" if is_through else "blind"
    if point is not None:
        sizes["point_angle"] = math.degrees(2 * math.atan2(point.widest, point.high - point.low))
        told += ", with a drill point"
    kind = "hole"
    if len(cylinders) == 1 and len(sinks) == 1 and sinks[0].low < narrow.low:
        kind = "countersink"
        sizes["countersink_diameter"] = 2 * sinks[0].widest
        sizes["countersink_angle"] = _full_angle(sinks[0])
        told += ", widened by a cone"
    elif len(cylinders) == 2 and not sinks:
        kind = "counterbore"
        wide = max(cylinders, key=lambda piece: piece.radius_low)
        sizes["counterbore_diameter"] = 2 * wide.radius_low
        sizes["counterbore_depth"] = wide.high - wide.low
        told += ", widened by a cylinder"
    elif len(cylinders) > 1 or sinks:
        sizes["steps"] = float(len(cylinders) + len(sinks))
        widths = sorted({round(2 * piece.widest, 6) for piece in (*cylinders, *sinks)})
        told += f", stepped: {', '.join(f'{w:g}' for w in widths)}"
    is_whole = opened.isdisjoint(own)
    reach = "all round" if is_whole else "most of the way round, a groove opens it"
    evidence = f"cylinder with the material outside, {reach}; {told}"
    axis, place = vector_of(way + 0.0), vector_of(start + 0.0)
    certainty = 1.0 if is_whole and (kind != "hole" or len(cylinders) == 1) else 0.9
    return Feature(kind, sizes, faces, place, axis, certainty, evidence, (), _turned(stack))


def _turned(stack: list[_Piece]) -> tuple[tuple[float, float], ...]:
    """Distances along a stack from its start and radii there, each end of each piece."""
    start = stack[0].low
    ends = [
        end
        for piece in stack
        for end in ((piece.low - start, piece.radius_low), (piece.high - start, piece.radius_high))
    ]
    return tuple(ends)


def _shoulders(own: set[int], graph: FaceGraph, way: np.ndarray) -> set[int]:
    """The flat rings across the axis that join pieces of one hole."""
    beside = {other for face in own for other, _ in graph.beside(face)} - own
    return {
        face
        for face in beside
        if graph.faces[face].kind == "plane"
        and abs(float(np.dot(graph.faces[face].way, way))) > 1 - 1e-6
        and {other for other, _ in graph.beside(face)} <= own
        and len({round(m.radius, 6) for _, m in graph.beside(face)}) == 2
    }


def _full_angle(cone: _Piece) -> float:
    return math.degrees(2 * math.atan2(cone.widest - cone.narrowest, cone.high - cone.low))


def _bottom(stack: list[_Piece], graph: FaceGraph, frame: RoundHole, way: np.ndarray) -> tuple[int, ...]:
    """The flat face that ends a blind hole: a plane across its axis, beside its last piece, of its size."""
    last = stack[-1]
    area = math.pi * last.radius_high**2
    for number in last.faces:
        for other, meeting in graph.beside(number):
            face = graph.faces[other]
            is_flat = (
                face.kind == "plane" and meeting.turn < 0 and abs(float(np.dot(face.way, way))) > 1 - 1e-6
            )
            if is_flat and abs(face.area - area) < 1e-3 * area:
                return (other,)
    return ()
