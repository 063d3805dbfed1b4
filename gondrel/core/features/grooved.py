"""Bores that a keyway or another groove opens along their whole length."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Collection

import numpy as np

from gondrel.core.features.lines import is_along, same_axis
from gondrel.core.model.face_graph import FaceGraph, SolidFace
from gondrel.core.model.geometry import vector_of
from gondrel.core.model.measures import RoundHole

__all__ = ["grooved_bores"]

_LEAST = math.radians(200)
"""A bore holds what is in it: more than half of its round is there."""
_WHOLE = math.radians(359.9)
_MOST_PIECES = 4
"""A round in more pieces is rather a ring of teeth."""


def grooved_bores(graph: FaceGraph, taken: Collection[int]) -> list[RoundHole]:
    """Through bores of which a part of the round is missing, as of a wheel with a keyway."""
    pieces: defaultdict[tuple[float, float, float], list[list[SolidFace]]] = defaultdict(list)
    for face in graph.faces:
        if face.kind != "cylinder" or not face.is_hollow or face.index in taken:
            continue
        groups = pieces[round(face.radius, 4), *_reach(face)]
        same = next((g for g in groups if same_axis(face.at, face.way, g[0].at, g[0].way)), None)
        if same is None:
            groups.append([face])
        else:
            same.append(face)
    return [
        _bore(faces)
        for groups in pieces.values()
        for faces in groups
        if len(faces) <= _MOST_PIECES
        and _LEAST <= sum(face.sweep for face in faces) < _WHOLE
        and not any(_has_floor(graph, face) for face in faces)
    ]


def _reach(face: SolidFace) -> tuple[float, float]:
    """From where to where a face goes along its axis, the same for either sense of it."""
    away = float(np.dot(face.at, face.way))
    ends = (away + face.low, away + face.high)
    leading = next((c for c in face.way if abs(c) > 1e-6), 1.0)
    low, high = ends if leading > 0 else (-ends[1], -ends[0])
    return round(low, 3), round(high, 3)


def _has_floor(graph: FaceGraph, face: SolidFace) -> bool:
    return any(
        meeting.turn < 0
        and graph.faces[other].kind == "plane"
        and is_along(graph.faces[other].way, face.way)
        for other, meeting in graph.beside(face.index)
    )


def _bore(faces: list[SolidFace]) -> RoundHole:
    first, way = faces[0], np.asarray(faces[0].way)
    start = vector_of(np.asarray(first.at) + way * first.low)
    numbers = tuple(sorted(face.index for face in faces))
    return RoundHole(2 * first.radius, first.high - first.low, start, first.way, True, numbers)
