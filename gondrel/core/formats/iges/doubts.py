"""What does not hold in an IGES file beside what single bodies are built of: told, and read all the same.

Source: IGES 5.3 (US PRO/IPO-100), from memory: clause 2.2.4.4 (the subordinate switch of the status
number), 4.21 (transformation matrices of forms 0 and 1 are orthonormal), 4.4 (the constituents of a
composite curve follow each other).
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Iterator

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.iges.cleansed import senseless_properties
from gondrel.core.formats.iges.entities import NAMES, links_of
from gondrel.core.formats.iges.properties import matrix_of
from gondrel.core.formats.iges.records import Entity, IgesFile
from gondrel.core.formats.iges.structure import edge_coedges, edges_of_solid
from gondrel.core.model.provenance import Note

__all__ = ["doubts_of"]

Point = NDArray[np.float64]

_APART = 1e-2
"""How far a curve may begin from where the one before it ends, as a share of how far that lies out."""

_SKEW = 1e-3
_DEPENDENT = (1, 2, 3)
_COMPOSITE, _ON_SURFACE, _LOOP = 102, 142, 508


def doubts_of(file: IgesFile) -> list[Note]:
    """One note for each kind of thing that does not hold, at its first entity."""
    links = {entity.number: tuple(_pointers(entity)) for entity in file.entities.values()}
    groups = (
        ("dangling-reference", "points to an entity that is not in the file", _dangling(file, links)),
        ("reference-wrong", "is said to belong to another, and none points to it", _loose(file, links)),
        ("placement-senseless", "its transformation is no rotation", _skewed(file)),
        ("loop-torn", "has curves that do not follow each other", _torn(file)),
        ("loop-torn", "has edges that do not follow each other", _torn_loops(file)),
        ("record-senseless", "counts more values than it has", senseless_properties(file)),
        ("shell-open", "is an open solid: an edge of it bounds one face only", _open_shells(file)),
    )  # fmt: skip
    notes = []
    for code, text, flagged in groups:
        places = list(flagged)
        if places:
            more = f" (and {len(places) - 1:,} more)" if len(places) > 1 else ""
            notes.append(Note(code, text + more, places[0].place))
    return notes


def _pointers(entity: Entity) -> Iterator[int]:
    """What an entity points to; nothing where its parameters make no sense, which is told elsewhere."""
    try:
        yield from (entity.pointer(at) for at in links_of(entity))
    except MalformedFile:
        return


def _dangling(file: IgesFile, links: dict[int, tuple[int, ...]]) -> Iterator[Entity]:
    for number, targets in links.items():
        if any(target and file.at(target) is None for target in targets):
            yield file.entities[number]


def _loose(file: IgesFile, links: dict[int, tuple[int, ...]]) -> Iterator[Entity]:
    """Entities that depend on another, where everything that could point to them is known."""
    if any(entity.kind not in NAMES for entity in file.entities.values()):
        return
    pointed = {target for targets in links.values() for target in targets}
    for entity in file.entities.values():
        pointed.update((entity.transform, abs(entity.colour), abs(entity.level), abs(entity.structure)))
    for entity in file.entities.values():
        if entity.subordinate in _DEPENDENT and entity.number not in pointed and entity.kind < 400:
            yield entity


def _skewed(file: IgesFile) -> Iterator[Entity]:
    for entity in file.of(124):
        if entity.form > 1:
            continue
        try:
            turn = np.array([entity.real(4 * r + c, float(r == c)) for r in range(3) for c in range(3)])
        except MalformedFile:
            continue
        turn = turn.reshape(3, 3)
        scale = abs(float(np.linalg.det(turn))) ** (1 / 3) if np.isfinite(turn).all() else 0.0
        if not scale or np.abs(turn @ turn.T / scale**2 - np.eye(3)).max() > _SKEW:
            yield entity


def _torn(file: IgesFile) -> Iterator[Entity]:
    """Composite curves with gaps, and bounds of surfaces that do not close."""
    for entity in file.of(_COMPOSITE, _ON_SURFACE):
        try:
            is_bound = entity.kind == _ON_SURFACE
            numbers = [entity.pointer(3)] if is_bound else list(_pointers(entity))[: entity.integer(0)]
            curves = [file.at(number) for number in numbers]
            ends = [_ends(file, curve) for curve in curves if curve is not None]
        except MalformedFile:
            continue
        following = zip(ends, ends[1:] + ends[:1] if is_bound else ends[1:], strict=False)
        if any(one and other and _are_apart(one[1], other[0]) for one, other in following):
            yield entity


def _torn_loops(file: IgesFile) -> Iterator[Entity]:
    """Loops in which an edge does not begin at the vertex where the one before it ends."""
    for loop in file.of(_LOOP):
        try:
            ends = [_edge_ends(file, loop, at) for at in edge_coedges(loop)]
        except MalformedFile:
            continue
        pairs = zip(ends, ends[1:] + ends[:1], strict=True)
        if any(one and other and one[1] != other[0] for one, other in pairs):
            yield loop


def _edge_ends(file: IgesFile, loop: Entity, at: int) -> tuple[object, object] | None:
    """The vertices, as places in their lists, from and to which a loop follows an edge."""
    listed, index = file.at(loop.pointer(at + 1)), loop.integer(at + 2)
    if listed is None or listed.kind != 504 or not 1 <= index <= listed.integer(0):
        return None
    first = 1 + 5 * (index - 1)
    start, end = ((listed.pointer(first + n), listed.integer(first + n + 1)) for n in (1, 3))
    return (start, end) if loop.integer(at + 3) else (end, start)


def _open_shells(file: IgesFile) -> Iterator[Entity]:
    """Shells of solids with an edge that only one face uses, once."""
    for solid in file.of(186):
        try:
            counts = Counter(edges_of_solid(file, solid.number))
        except MalformedFile:
            continue
        if 1 in counts.values():
            yield solid


def _are_apart(one: Point, other: Point) -> bool:
    reach = max(1.0, float(np.abs(one).max()), float(np.abs(other).max()))
    return math.dist(one, other) > _APART * reach


def _ends(file: IgesFile, curve: Entity, depth: int = 0) -> tuple[Point, Point] | None:
    """Where a curve begins and ends in the file's unit, None where that is not known."""
    if depth > 4:
        return None
    if curve.kind == _COMPOSITE:
        several = list(_pointers(curve))[: curve.integer(0)]
        inner = [file.at(number) for number in (*several[:1], *several[-1:])]
        if len(inner) != 2 or inner[0] is None or inner[1] is None:
            return None
        first, last = _ends(file, inner[0], depth + 1), _ends(file, inner[1], depth + 1)
        return _placed(file, curve, (first[0], last[1])) if first and last else None
    if curve.kind == 110:
        return _placed(file, curve, _points(curve, (0, 1, 2), (3, 4, 5)))
    if curve.kind == 100:
        height = curve.real(0)
        start, end = ((curve.real(at), curve.real(at + 1), height) for at in (3, 5))
        return _placed(file, curve, (np.array(start), np.array(end)))
    return _placed(file, curve, _spline_ends(curve)) if curve.kind == 126 else None


def _points(curve: Entity, *places: Iterable[int]) -> tuple[Point, Point]:
    start, end = (np.array([curve.real(at) for at in three]) for three in places)
    return start, end


def _spline_ends(curve: Entity) -> tuple[Point, Point] | None:
    """The first and the last pole of a spline that ends in them and is not cut short."""
    top, degree = curve.integer(0), curve.integer(1)
    knots = [curve.real(6 + place) for place in range(2 + top + degree)]
    poles = 6 + len(knots) + top + 1
    limits = poles + 3 * (top + 1)
    low, high = knots[: degree + 1], knots[-degree - 1 :]
    if len(set(low)) > 1 or len(set(high)) > 1:
        return None
    if (curve.real(limits), curve.real(limits + 1)) != (low[0], high[0]):
        return None
    last = poles + 3 * top
    return _points(curve, range(poles, poles + 3), range(last, last + 3))


def _placed(file: IgesFile, curve: Entity, ends: tuple[Point, Point] | None) -> tuple[Point, Point] | None:
    if ends is None or not curve.transform:
        return ends
    matrix = matrix_of(file, curve.transform, 1.0)
    start, end = (matrix[:3, :3] @ point + matrix[:3, 3] for point in ends)
    return start, end
