"""Solids of thin walls, and ribs."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Collection

import numpy as np

from gondrel.core.features.lines import SAME, is_along, same_axis
from gondrel.core.model.face_graph import FaceGraph, SolidFace
from gondrel.core.model.features import Feature

__all__ = ["find_ribs", "find_shell"]

_CORNER = -0.1
_SHARE = 0.6
"""Of a solid's area, that lies across from another face at the thickness of its wall, at least."""
_THIN = 0.5
_SLENDER = 0.5


def find_shell(graph: FaceGraph, taken: Collection[int]) -> Feature | None:
    """The solid as a hollow one of one wall: most of its faces have another across from them, one thickness
    away, in three directions; round walls count for two."""
    pairs: defaultdict[float, list[tuple[SolidFace, SolidFace]]] = defaultdict(list)
    free = [face for face in graph.faces if face.index not in taken]
    for outer, inner, apart in [*_flat_pairs(free), *_round_pairs(free)]:
        pairs[round(apart / SAME) * SAME].append((outer, inner))
    total = sum(face.area for face in graph.faces)
    best: tuple[float, float, list[tuple[SolidFace, SolidFace]]] | None = None
    for wall, those in pairs.items():
        share = 2 * sum(min(a.area, b.area) for a, b in those) / total
        if share >= _SHARE and _directions(those) >= 3 and (best is None or share > best[1]):
            best = wall, share, those
    if best is None:
        return None
    wall, share, those = best
    exact = float(np.median([_apart(outer, inner) for outer, inner in those]))
    inside = tuple(sorted({inner.index for _, inner in those}))
    evidence = f"{share:.0%} of its area lies across from a face at one thickness"
    return Feature("shell", {"wall": exact}, inside, None, None, 0.9, evidence)


def _apart(outer: SolidFace, inner: SolidFace) -> float:
    if outer.kind == "plane":
        return float(np.subtract(outer.at, inner.at) @ np.array(outer.way))
    return abs(outer.radius - inner.radius)


def _flat_pairs(faces: list[SolidFace]) -> list[tuple[SolidFace, SolidFace, float]]:
    flat = [face for face in faces if face.kind == "plane"]
    found = []
    for outer in flat:
        for inner in flat:
            if inner.area > outer.area or float(np.dot(outer.way, inner.way)) > -1 + 1e-9:
                continue
            away = np.subtract(outer.centre, inner.centre)
            apart = float(np.subtract(outer.at, inner.at) @ np.array(outer.way))
            beside = float(np.linalg.norm(away - (away @ np.array(outer.way)) * np.array(outer.way)))
            across = math.sqrt(inner.area)
            if SAME < apart < _THIN * across and beside < math.sqrt(outer.area) / 2:
                found.append((outer, inner, apart))
    return found


def _round_pairs(faces: list[SolidFace]) -> list[tuple[SolidFace, SolidFace, float]]:
    walls = [face for face in faces if face.kind == "cylinder"]
    return [
        (outer, inner, outer.radius - inner.radius)
        for outer in walls
        for inner in walls
        if not outer.is_hollow and inner.is_hollow and outer.radius - inner.radius > SAME
        and outer.radius - inner.radius < _THIN * inner.radius
        and same_axis(outer.at, outer.way, inner.at, inner.way)
    ]  # fmt: skip


def _directions(pairs: list[tuple[SolidFace, SolidFace]]) -> int:
    """In how many directions walls stand; a round one stands in two."""
    ways: list[SolidFace] = []
    count = 0
    for outer, _ in pairs:
        if not any(is_along(outer.way, other.way) and outer.kind == other.kind for other in ways):
            ways.append(outer)
            count += 2 if outer.kind == "cylinder" else 1
    return count


def find_ribs(graph: FaceGraph, taken: Collection[int]) -> list[Feature]:
    """Thin plates that stand in a corner: two equal flat sides, each in corners with two other faces, with
    what joins them at the top."""
    sides = [f for f in graph.faces if f.kind == "plane" and f.index not in taken and _stands(graph, f)]
    features: list[Feature] = []
    used: set[int] = set()
    for place, one in enumerate(sides):
        for other in sides[place + 1 :]:
            if one.index in used or other.index in used:
                continue
            thick = float(np.subtract(one.at, other.at) @ np.array(one.way))
            is_pair = float(np.dot(one.way, other.way)) < -1 + 1e-9 and abs(one.area - other.area) < (
                1e-6 * one.area
            )
            if not is_pair or not SAME < thick < _SLENDER * math.sqrt(one.area):
                continue
            tops = (_over(graph, one) & _over(graph, other)) - set(taken)
            if not tops:
                continue
            used |= {one.index, other.index}
            faces = tuple(sorted({one.index, other.index} | tops))
            evidence = "a thin plate that stands in corners with two faces on either side"
            features.append(Feature("rib", {"thickness": thick}, faces, one.centre, one.way, 0.9, evidence))
    return features


def _stands(graph: FaceGraph, face: SolidFace) -> bool:
    return len({other for other, m in graph.beside(face.index) if m.turn < _CORNER}) >= 2


def _over(graph: FaceGraph, face: SolidFace) -> set[int]:
    return {other for other, m in graph.beside(face.index) if m.turn > -_CORNER}
