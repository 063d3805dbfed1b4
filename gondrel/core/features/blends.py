"""Fillets and rounds, and chamfers, with the chains they run in."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection

import numpy as np

from gondrel.core.features.lines import SAME, is_along, same_axis
from gondrel.core.model.face_graph import FaceGraph, SolidFace
from gondrel.core.model.features import Feature

__all__ = ["find_chamfers", "find_fillets"]

_SMOOTH = 0.02
"""Angle, rad, up to which faces run on into one another."""

_HALF = math.pi - 1e-3
_LEAST, _MOST = math.radians(8.0), math.radians(82.0)
"""By how much a chamfer turns from either of its faces."""

_SHARPEST = math.radians(120.0)
"""How much the faces beside a chamfer turn from one another at most: the top of a tooth is none."""

_NARROW = 0.5
"""A chamfer's share of the smaller of the faces beside it, at most."""


def find_fillets(graph: FaceGraph, taken: Collection[int]) -> list[Feature]:
    """Faces of constant radius that run smoothly from one face into another, by chains.

    Args:
        taken: faces that belong to other features.
    """
    radii = {}
    for face in graph.faces:
        if face.index not in taken and (radius := _blend_radius(graph, face)) is not None:
            radii[face.index] = radius
    for face in graph.faces:  # where several meet in a corner
        if face.kind == "sphere" and face.index not in taken and face.index not in radii:
            smooth = [other for other, meeting in graph.beside(face.index) if abs(meeting.turn) < _SMOOTH]
            if len(smooth) >= 2 and all(abs(radii.get(o, -1.0) - face.radius) < SAME for o in smooth):
                radii[face.index] = face.radius
    features = []
    for chain in _chains(graph, radii, lambda one, other: abs(radii[one] - radii[other]) < SAME):
        face = graph.faces[chain[0]]
        side = "an inner corner" if face.is_hollow else "an edge that stands out"
        evidence = f"runs smoothly into the faces on both sides of {side}"
        features.append(
            Feature("fillet", {"radius": radii[chain[0]]}, tuple(chain), face.centre, None, 1.0, evidence)
        )
    return features + _variable_fillets(graph, taken)


def _variable_fillets(graph: FaceGraph, taken: Collection[int]) -> list[Feature]:
    """Faces that are none of the elementary ones and run smoothly into their neighbours, by the radii of
    the arcs they end in: told as variable where these differ."""
    features = []
    for face in graph.faces:
        if face.kind != "other" or face.index in taken:
            continue
        smooth = {other for other, m in graph.beside(face.index) if abs(m.turn) < _SMOOTH}
        ends = sorted(_end_radii(graph, face, smooth))
        if len(smooth) < 2 or not ends:
            continue
        sizes, how = {"radius": ends[0]}, "one radius at its ends"
        if ends[-1] - ends[0] > SAME:
            sizes["radius2"] = ends[-1]
            how = "variable, from one radius to another"
        evidence = f"runs smoothly into the faces on both sides; {how}"
        features.append(Feature("fillet", sizes, (face.index,), face.centre, None, 0.8, evidence))
    return features


def _end_radii(graph: FaceGraph, face: SolidFace, smooth: Collection[int]) -> list[float]:
    """The radii of the arcs a blend ends in; between two flat faces an arc sweeps the angle of these."""
    flat = [graph.faces[n] for n in sorted(smooth) if graph.faces[n].kind == "plane"]
    sweep = 0.0
    if len(flat) == 2:
        sweep = math.acos(float(np.clip(np.dot(flat[0].way, flat[1].way), -1.0, 1.0)))
    ends = [m for other, m in graph.beside(face.index) if other not in smooth]
    radii = [m.radius for m in ends if m.kind == "circle"]
    return radii + [m.length / sweep for m in ends if m.kind == "other" and sweep > _SMOOTH]


def _blend_radius(graph: FaceGraph, face: SolidFace) -> float | None:
    """The radius of a face that blends two others, None where it does not."""
    if face.kind == "cylinder":
        rims = [
            (o, m) for o, m in graph.beside(face.index) if m.kind == "line" and is_along(m.way, face.way)
        ]
        radius = face.radius
        is_part = face.sweep < _HALF
    elif face.kind == "torus":
        rims = [
            (o, m) for o, m in graph.beside(face.index)
            if m.kind == "circle" and same_axis(m.at, m.way, face.at, face.way)
        ]  # fmt: skip
        radius, is_part = face.minor, True
    else:
        return None
    smooth = {other for other, meeting in rims if abs(meeting.turn) < _SMOOTH}
    smooth = {other for other in smooth if not _same_surface(graph.faces[other], face)}
    return radius if is_part and len(smooth) >= 2 else None


def _same_surface(one: SolidFace, other: SolidFace) -> bool:
    """Whether two faces lie on one surface, as the halves of a tube do."""
    if one.kind != other.kind or not same_axis(one.at, one.way, other.at, other.way):
        return False
    return abs(one.radius - other.radius) < SAME and abs(one.minor - other.minor) < SAME


def _chains(
    graph: FaceGraph, members: Collection[int], alike: Callable[[int, int], bool]
) -> list[list[int]]:
    """Faces put together where they meet and are alike, in the order of the B-rep."""
    left, chains = set(members), []
    for start in sorted(members):
        if start not in left:
            continue
        left.discard(start)
        chain, front = [start], [start]
        while front:
            face = front.pop()
            for other, _ in graph.beside(face):
                if other in left and alike(face, other):
                    left.discard(other)
                    chain.append(other)
                    front.append(other)
        chains.append(sorted(chain))
    return chains


def find_chamfers(graph: FaceGraph, taken: Collection[int]) -> list[Feature]:
    """Narrow flat or conical faces that take an edge off, by chains."""
    sizes = {}
    for face in graph.faces:
        if face.index not in taken and (found := _chamfer_sizes(graph, face)) is not None:
            sizes[face.index] = found
    features = []
    for chain in _chains(graph, sizes, lambda one, other: _alike(sizes[one], sizes[other])):
        one, other = sizes[chain[0]]
        face = graph.faces[chain[0]]
        evidence = "a narrow face between two larger ones, over edges that both stand out"
        shown = {"distance": one, "distance2": other, "angle": math.degrees(math.atan2(other, one))}
        features.append(Feature("chamfer", shown, tuple(chain), face.centre, None, 0.9, evidence))
    return features


def _alike(one: tuple[float, float], other: tuple[float, float]) -> bool:
    return abs(one[0] - other[0]) < SAME and abs(one[1] - other[1]) < SAME


def _chamfer_sizes(graph: FaceGraph, face: SolidFace) -> tuple[float, float] | None:
    """How far a chamfer takes its two faces off, the smaller first; None where a face is none."""
    if face.kind == "plane":
        return _flat_chamfer(graph, face)
    if face.kind == "cone" and not face.is_hollow:
        return _round_chamfer(graph, face)
    return None


def _flat_chamfer(graph: FaceGraph, face: SolidFace) -> tuple[float, float] | None:
    sides = [
        (other, m) for other, m in graph.beside(face.index)
        if m.kind == "line" and _LEAST < abs(m.turn) < _MOST
    ]  # fmt: skip
    best: tuple[float, float, float] | None = None
    for place, (one, first) in enumerate(sides):
        for other, second in sides[place + 1 :]:
            if one == other or first.turn * second.turn < 0 or not is_along(first.way, second.way):
                continue
            smaller = min(graph.faces[one].area, graph.faces[other].area)
            across = np.subtract(second.at, first.at)
            across = across - (across @ np.asarray(first.way)) * np.asarray(first.way)
            width = float(np.linalg.norm(across))
            length = min(first.length, second.length)
            if face.area > _NARROW * smaller or width > length or width < SAME:
                continue
            a, b = abs(first.turn), abs(second.turn)
            if a + b > _SHARPEST:
                continue
            setbacks = sorted(width * math.sin(t) / math.sin(a + b) for t in (a, b))
            if best is None or length > best[2]:
                best = setbacks[0], setbacks[1], length
    return best[:2] if best is not None else None


def _round_chamfer(graph: FaceGraph, face: SolidFace) -> tuple[float, float] | None:
    """A cone about an axis between a cylinder and a plane across it, or between two cylinders."""
    rims = [
        (other, m) for other, m in graph.beside(face.index)
        if m.kind == "circle" and _LEAST < m.turn < _MOST and same_axis(m.at, m.way, face.at, face.way)
    ]  # fmt: skip
    kinds = {graph.faces[other].kind for other, _ in rims}
    flat = [o for o, _ in rims if graph.faces[o].kind == "plane" and is_along(graph.faces[o].way, face.way)]
    if len({other for other, _ in rims}) < 2 or "cylinder" not in kinds or not flat:
        return None
    height = face.high - face.low
    across = height * math.tan(abs(face.angle))
    smaller = min(graph.faces[other].area for other, _ in rims)
    if face.area > smaller:
        return None
    first, second = sorted((height, across))
    return first, second
