"""What stands out and what is sunk: bosses, pockets, slots; and solids that are turned."""

from __future__ import annotations

import math
from collections.abc import Collection

import numpy as np

from gondrel.core.features.lines import SAME, is_across, is_along, off_axis, same_axis
from gondrel.core.model.face_graph import FaceGraph, FaceMeeting, SolidFace
from gondrel.core.model.features import Feature
from gondrel.core.model.geometry import vector_of

__all__ = ["find_bosses", "find_pockets", "find_revolution", "find_slots"]

_CORNER = -0.1
"""Turn, rad, below which an edge lies in a corner."""

_SMOOTH = 0.02


def find_revolution(graph: FaceGraph, taken: Collection[int]) -> Feature | None:
    """The solid as a turned one: every face that no other feature has is of one axis."""
    faces = [face for face in graph.faces if face.index not in taken]
    round_faces = [face for face in faces if face.kind in ("cylinder", "cone", "torus")]
    if not round_faces:
        return None
    main = max(round_faces, key=lambda face: (not face.is_hollow, face.area))
    if not all(_is_about(face, main) for face in faces):
        return None
    outer = [f for f in round_faces if not f.is_hollow and abs(f.radius - main.radius) < SAME]
    if main.is_hollow or sum(face.sweep for face in outer) < 2 * math.pi - 1e-3:
        return None
    reach = [
        float(np.dot(np.subtract(face.at, main.at), main.way)) + h * float(np.dot(face.way, main.way))
        for face in round_faces
        for h in (face.low, face.high)
    ]
    reach += [float(np.dot(np.subtract(f.at, main.at), main.way)) for f in faces if f.kind == "plane"]
    widest = max(_widest(face) for face in round_faces)
    sizes = {"diameter": 2 * widest, "length": max(reach) - min(reach)}
    own = tuple(face.index for face in faces)
    evidence = "all its faces but those of other features are of one axis"
    return Feature("revolution", sizes, own, main.at, main.way, 1.0, evidence)


def _is_about(face: SolidFace, main: SolidFace) -> bool:
    if face.kind == "plane":
        return is_along(face.way, main.way)
    if face.kind == "sphere":
        return off_axis(face.at, main.at, main.way) < SAME
    return face.kind != "other" and same_axis(face.at, face.way, main.at, main.way)


def _widest(face: SolidFace) -> float:
    if face.kind == "cone":
        return max(abs(face.radius + h * math.tan(face.angle)) for h in (face.low, face.high))
    return face.radius + (face.minor if face.kind == "torus" and not face.is_hollow else 0.0)


def find_bosses(graph: FaceGraph, taken: Collection[int]) -> list[Feature]:
    """Round studs on a flat face that is larger than they are."""
    features = []
    seen: set[int] = set()
    for face in graph.faces:
        if face.kind != "cylinder" or face.is_hollow or face.index in taken or face.index in seen:
            continue
        same = [
            f for f in graph.faces
            if f.kind == "cylinder" and not f.is_hollow and abs(f.radius - face.radius) < SAME
            and same_axis(f.at, f.way, face.at, face.way) and _meets_height(f, face)
        ]  # fmt: skip
        seen |= {f.index for f in same}
        if sum(f.sweep for f in same) < 2 * math.pi - 1e-3:
            continue
        bases = [
            (graph.faces[other], m)
            for f in same
            for other, m in graph.beside(f.index)
            if m.kind == "circle" and m.turn < _CORNER and graph.faces[other].kind == "plane"
        ]
        sunk = [base for base, _ in bases if base.area > 2 * math.pi * face.radius**2]
        if len({base.index for base, _ in bases}) != 1 or not sunk:
            continue
        base = sunk[0]
        height = face.high - face.low
        axis = base.way
        foot = np.asarray(face.at) + np.asarray(face.way) * float(
            np.dot(np.subtract(base.at, face.at), face.way)
        )
        place = vector_of(foot + 0.0)
        own = {f.index for f in same}
        tops = {
            other for f in same for other, m in graph.beside(f.index)
            if m.turn > 0.1 and graph.faces[other].kind == "plane"
            and is_along(graph.faces[other].way, axis)
            and {around for around, _ in graph.beside(other)} <= own | set(taken)
        }  # fmt: skip
        faces = tuple(sorted(own | tops))
        evidence = "a cylinder all round that stands in a corner on a larger flat face"
        sizes = {"diameter": 2 * face.radius, "height": height}
        features.append(Feature("boss", sizes, faces, place, axis, 0.9, evidence))
    return features


def _meets_height(one: SolidFace, other: SolidFace) -> bool:
    """Whether two faces of one cylinder stand beside one another."""
    along = math.copysign(1.0, float(np.dot(one.way, other.way)))
    foot = float(np.dot(np.subtract(one.at, other.at), other.way))
    low, high = sorted((foot + along * one.low, foot + along * one.high))
    return low < other.high and high > other.low


def find_slots(graph: FaceGraph, taken: Collection[int]) -> list[Feature]:
    """Two equal half cylinders that run smoothly into two parallel walls, with what closes it below."""
    ends = [
        face for face in graph.faces
        if face.kind == "cylinder" and face.is_hollow and face.index not in taken
        and abs(face.sweep - math.pi) < 1e-3
    ]  # fmt: skip
    features = []
    used: set[int] = set()
    for place, one in enumerate(ends):
        for other in ends[place + 1 :]:
            if one.index in used or other.index in used:
                continue
            is_pair = abs(one.radius - other.radius) < SAME and is_along(one.way, other.way)
            walls = _smooth_walls(graph, one) & _smooth_walls(graph, other)
            if not is_pair or len(walls) != 2:
                continue
            used |= {one.index, other.index}
            apart = off_axis(other.at, one.at, one.way)
            floors = _floors(graph, {one.index, other.index} | walls)
            sizes = {
                "width": 2 * one.radius, "length": apart + 2 * one.radius, "depth": one.high - one.low,
            }  # fmt: skip
            how = "with a flat floor" if floors else "through"
            evidence = f"two half cylinders run smoothly into two parallel walls, {how}"
            faces = tuple(sorted({one.index, other.index} | walls | floors))
            features.append(Feature("slot", sizes, faces, one.at, one.way, 1.0, evidence))
    return features


def _smooth_walls(graph: FaceGraph, face: SolidFace) -> set[int]:
    return {
        other for other, m in graph.beside(face.index)
        if abs(m.turn) < _SMOOTH and m.kind == "line" and graph.faces[other].kind == "plane"
    }  # fmt: skip


def _floors(graph: FaceGraph, walls: set[int]) -> set[int]:
    """Flat faces that stand in a corner with every one of some walls."""
    found = [
        {
            other
            for other, m in graph.beside(wall)
            if m.turn < _CORNER and graph.faces[other].kind == "plane"
        }
        for wall in walls
    ]
    return set.intersection(*found) if found else set()


def find_pockets(graph: FaceGraph, taken: Collection[int]) -> list[Feature]:
    """Flat floors with walls all round that stand up from them."""
    features = []
    for floor in graph.faces:
        if floor.kind != "plane" or floor.index in taken:
            continue
        rim = graph.beside(floor.index)
        walls = sorted({other for other, _ in rim})
        if len(walls) < 2 or not all(m.turn < _CORNER for _, m in rim):
            continue
        if any(wall in taken and graph.faces[wall].kind != "cylinder" for wall in walls):
            continue
        if not all(_stands_on(graph.faces[wall], floor) for wall in walls):
            continue
        if any(not graph.faces[w].is_hollow and graph.faces[w].sweep > 3.0 for w in walls):
            continue  # a groove round a pin
        depth = max(_height(graph, wall, floor) for wall in walls)
        if depth < SAME:
            continue
        corners = {
            graph.faces[wall].radius for wall in walls
            if graph.faces[wall].kind == "cylinder" and graph.faces[wall].is_hollow
        }  # fmt: skip
        sizes = {"depth": depth, "area": floor.area}
        if len({round(r, 6) for r in corners}) == 1:
            sizes["corner_radius"] = next(iter(corners))
        evidence = f"a flat floor in a corner with all {len(walls)} walls round it"
        faces = (floor.index, *(wall for wall in walls if wall not in taken))
        features.append(Feature("pocket", sizes, faces, floor.centre, floor.way, 0.9, evidence))
    return features


def _stands_on(wall: SolidFace, floor: SolidFace) -> bool:
    """Whether a wall stands square on a floor."""
    if wall.kind == "plane":
        return is_across(wall.way, floor.way)
    return wall.kind == "cylinder" and is_along(wall.way, floor.way)


def _height(graph: FaceGraph, wall: int, floor: SolidFace) -> float:
    """How far a wall rises over a floor, mm, by its edges."""
    return max(
        (float(np.dot(np.subtract(point, floor.at), floor.way))
         for _, m in graph.beside(wall) for point in _points(m)),
        default=0.0,
    )  # fmt: skip


def _points(meeting: FaceMeeting) -> list[np.ndarray]:
    if meeting.kind == "line":
        start = np.asarray(meeting.at)
        return [start, start + np.asarray(meeting.way) * meeting.length]
    return [np.asarray(meeting.at)] if meeting.kind == "circle" else []
