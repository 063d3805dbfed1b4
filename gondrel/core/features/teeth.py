"""Teeth round an axis, as of gears and splines."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Collection, Sequence

import numpy as np

from gondrel.core.features.lines import is_along, same_axis
from gondrel.core.model.face_graph import FaceGraph, SolidFace
from gondrel.core.model.features import Feature
from gondrel.core.model.geometry import Vector

__all__ = ["find_teeth"]

_LEAST = 8
"""Fewer teeth than this are not told from a prism."""
_SAME = 1e-3
_PHASE = 0.02


def find_teeth(
    graph: FaceGraph, taken: Collection[int], axes: Sequence[tuple[Vector, Vector]]
) -> list[Feature]:
    """Equal faces that come round an axis again and again, at least two of them for each tooth.

    Args:
        axes: points and directions of axes that are tried beside those of the solid's own cylinders.
    """
    free = [face for face in graph.faces if face.index not in taken]
    own = [(f.at, f.way) for f in sorted(free, key=lambda f: -f.area) if f.kind == "cylinder"]
    ends = sorted((f for f in free if f.kind == "plane"), key=lambda f: -f.area)
    tried: list[tuple[Vector, Vector]] = []
    for at, way in (*axes, *own[:40], *((f.centre, f.way) for f in ends[:3])):
        if any(same_axis(at, way, *other) for other in tried):
            continue
        tried.append((at, way))
        found = _round(free, np.array(at), np.array(way))
        if found is not None:
            count, faces = found
            sizes = {"count": float(count), **_diameters(faces, at, way)}
            evidence = f"{len(faces)} faces come round an axis {count} times"
            numbers = tuple(sorted(face.index for face in faces))
            return [Feature("pattern", sizes, numbers, at, way, 0.9, evidence)]
    return []


def _round(
    faces: Sequence[SolidFace], at: np.ndarray, way: np.ndarray
) -> tuple[int, list[SolidFace]] | None:
    groups: defaultdict[tuple[object, ...], list[tuple[float, SolidFace]]] = defaultdict(list)
    side = np.eye(3)[int(np.argmin(np.abs(way)))]
    x = np.cross(way, side)
    x /= np.linalg.norm(x)
    y = np.cross(way, x)
    for face in faces:
        away = np.subtract(face.centre, at)
        across, above = float(away @ x), float(away @ y)
        distance = math.hypot(across, above)
        if distance > _SAME:
            height = round(float(away @ way), 2)
            key = face.kind, round(face.area, 2), round(distance, 2), height
            groups[key].append((math.atan2(above, across) % (2 * math.pi), face))
    by_count: defaultdict[int, list[SolidFace]] = defaultdict(list)
    sets: defaultdict[int, int] = defaultdict(int)
    for members in groups.values():
        turns = np.array([turn for turn, _ in members])
        counts = (len(members), len(members) // 2) if len(members) % 2 == 0 else (len(members),)
        for count in counts:
            if count >= _LEAST and _comes_round(turns, count):
                by_count[count] += [face for _, face in members]
                sets[count] += len(members) // count
    fitting = [count for count in by_count if sets[count] >= 2]
    if not fitting:
        return None
    count = max(fitting, key=lambda n: len(by_count[n]))
    return count, by_count[count]


def _comes_round(turns: np.ndarray, count: int) -> bool:
    """Whether angles are those of one or two faces of each of so many equal teeth."""
    phases = np.exp(1j * count * turns)
    left = np.ones(len(turns), bool)
    while left.any():
        same = left & (np.abs(phases - phases[int(np.argmax(left))]) < _PHASE)
        own = np.sort(turns[same])
        steps = np.diff(np.append(own, own[0] + 2 * math.pi))
        if len(own) != count or float(np.abs(steps * count / (2 * math.pi) - 1).max()) > _PHASE:
            return False
        left &= ~same
    return True


def _diameters(faces: Sequence[SolidFace], at: Vector, way: Vector) -> dict[str, float]:
    """Of the cylinders about the axis at tips and roots, where there are any."""
    radii = sorted(
        f.radius for f in faces
        if f.kind == "cylinder" and is_along(f.way, way) and same_axis(f.at, f.way, at, way)
    )  # fmt: skip
    if not radii:
        return {}
    sizes = {"tip_diameter": 2 * radii[-1]}
    if radii[0] < radii[-1] - _SAME:
        sizes["root_diameter"] = 2 * radii[0]
    return sizes
