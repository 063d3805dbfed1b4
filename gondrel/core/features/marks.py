"""Engravings: many small shapes of one depth, cut into one face or standing on it, as letters do."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection

import numpy as np

from gondrel.core.features.lines import SAME, is_across
from gondrel.core.model.face_graph import FaceGraph, SolidFace
from gondrel.core.model.features import Feature
from gondrel.core.model.geometry import vector_of

__all__ = ["find_marks"]

_CORNER = -0.1
_LEAST = 4
"""Fewer marks are told as pockets."""
_SMALL = 0.05
"""Of the face they are on, each mark at most."""


def find_marks(graph: FaceGraph, taken: Collection[int]) -> list[Feature]:
    """Text-like engravings and raised texts, told as pockets of many marks."""
    groups: defaultdict[tuple[int, float, bool], list[tuple[SolidFace, set[int]]]] = defaultdict(list)
    for face in graph.faces:
        if face.kind != "plane" or face.index in taken:
            continue
        walls = {other for other, _ in graph.beside(face.index)}
        if not walls or not all(_is_wall(graph, face, wall, taken) for wall in walls):
            continue
        turns = [m.turn for _, m in graph.beside(face.index)]
        is_sunk = max(turns) < _CORNER
        if not is_sunk and min(turns) < -_CORNER:
            continue
        ground = _ground(graph, face, walls)
        if ground is not None and face.area < _SMALL * ground.area:
            depth = abs(float(np.subtract(ground.at, face.at) @ np.array(ground.way)))
            groups[ground.index, round(depth / SAME) * SAME, is_sunk].append((face, walls))
    features = []
    for (ground_index, _, is_sunk), marks in groups.items():
        areas = {round(face.area, 4) for face, _ in marks}
        if len(marks) < _LEAST or len(areas) < 2:  # equal ones are a pattern
            continue
        ground = graph.faces[ground_index]
        depth = abs(float(np.subtract(ground.at, marks[0][0].at) @ np.array(ground.way)))
        faces = tuple(sorted({f for face, walls in marks for f in (face.index, *walls)}))
        how = "sunk into" if is_sunk else "standing on"
        evidence = f"text-like: {len(marks)} small shapes of one depth {how} one face"
        middle = vector_of(np.mean([face.centre for face, _ in marks], axis=0))
        sizes = {"depth": depth, "marks": float(len(marks))}
        features.append(Feature("pocket", sizes, faces, middle, ground.way, 0.7, evidence))
    return features


def _is_wall(graph: FaceGraph, top: SolidFace, wall: int, taken: Collection[int]) -> bool:
    face = graph.faces[wall]
    if wall in taken:
        return False
    if face.kind == "plane":
        return is_across(face.way, top.way)
    return face.kind in ("cylinder", "other")


def _ground(graph: FaceGraph, top: SolidFace, walls: set[int]) -> SolidFace | None:
    """The one larger flat face along which all the walls end."""
    common: set[int] | None = None
    for wall in walls:
        there = {other for other, _ in graph.beside(wall)} - walls - {top.index}
        common = there if common is None else common & there
    grounds = [graph.faces[n] for n in common or () if graph.faces[n].kind == "plane"]
    along = [g for g in grounds if float(np.dot(g.way, top.way)) > 1 - 1e-9]
    return along[0] if len(along) == 1 else None
