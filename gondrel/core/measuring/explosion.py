"""How parts of an assembly come apart: by the faces they seat on and the axes they share.

Source: directional blocking, as in the literature on assembly planning: a part can leave along a way that
none of its contacts bars. A plane contact bars ways into it, a cylinder contact all but its axis.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.derive import seats_of_body
from gondrel.core.kernel.inspect.seats import Seats
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.boxes import box_in_place, placed_boxes
from gondrel.core.model.cutting import Vector
from gondrel.core.model.explosion import Explosion, Leave
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model, compose
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["explosion_of"]

Floats = NDArray[np.float64]

_TOUCH, _FIT = 0.02, 0.6
"""How near planes lie that touch, and how much looser a bore may be than its pin, mm."""

_PARALLEL = 1e-3
_GAP = 0.12
"""Free way between what was taken apart, as a share of the assembly's size."""

_MOST = 400
"""Components of one assembly up to which contacts are looked at; with more they go along the axes."""


@dataclass(slots=True)
class _Unit:
    """A component of an assembly with all in it, in the assembly's frame."""

    id: str
    label: str
    box: Floats
    seats: list[tuple[Floats, Floats, Floats, Floats]] = field(default_factory=list)

    @property
    def size(self) -> float:
        return float(np.prod(np.maximum(self.box[1] - self.box[0], 1e-6)))


@dataclass(slots=True)
class _Contact:
    """What keeps one unit from moving: normals it must not go along, and axes it must keep to."""

    barred: list[Floats] = field(default_factory=list)
    axes: list[Floats] = field(default_factory=list)


def explosion_of(
    model: Model, store: BlobStore, facts: Mapping[str, BodyFacts], *, progress: Progress = SILENT
) -> Explosion:
    """How every assembly of a model comes apart, the inner ones first.

    Args:
        facts: measures of the bodies by hash.
    """
    leaves: dict[str, Leave] = {}
    assemblies = [p for p in reversed(model.products) if p.occurrences]
    for assembly in progress.each(assemblies, "Looking how parts come apart"):
        units = [_unit(model, use.product, use.id, use.placement, use.name, store, facts)
                 for use in assembly.occurrences if use.product in model.by_id]  # fmt: skip
        present = [unit for unit in units if unit is not None]
        own = _own_unit(assembly, store, facts)
        leaves |= _taken_apart([*([own] if own is not None else []), *present], own is not None)
    return Explosion(leaves, max(model.depth - 1, 1))


def _own_unit(assembly: Product, store: BlobStore, facts: Mapping[str, BodyFacts]) -> _Unit | None:
    """The bodies of an assembly itself, which stay where they are."""
    if not assembly.bodies:
        return None
    unit = _Unit("", assembly.label, np.array([[np.inf] * 3, [-np.inf] * 3]))
    for body in assembly.bodies:
        _add(unit, body.blob, np.eye(4), store, facts)
    return unit if np.isfinite(unit.box).all() else None


def _unit(
    model: Model, product: str, use: str, placement: Sequence[float], name: str, store: BlobStore,
    facts: Mapping[str, BodyFacts],
) -> _Unit | None:  # fmt: skip
    unit = _Unit(use, name or model.product(product).label, np.array([[np.inf] * 3, [-np.inf] * 3]))
    for place in model.walk(product):
        for body in model.product(place.product).bodies if place.product in model.by_id else ():
            whole = compose(tuple(placement), place.placement)
            _add(unit, body.blob, np.asarray(whole, float).reshape(4, 4), store, facts)
    return unit if np.isfinite(unit.box).all() else None


def _add(unit: _Unit, key: str, matrix: Floats, store: BlobStore, facts: Mapping[str, BodyFacts]) -> None:
    if key not in facts:
        return
    box = box_in_place(facts[key], tuple(matrix.ravel().tolist()))
    unit.box = np.array([np.minimum(unit.box[0], box[0]), np.maximum(unit.box[1], box[1])])
    try:
        seats: Seats = seats_of_body(store, key)
    except KernelRefused:
        return
    if len(seats.radii):
        turn = matrix[:3, :3]
        points = seats.points @ turn.T + matrix[:3, 3]
        unit.seats.append(
            (points, seats.ways @ turn.T, seats.radii, placed_boxes(matrix[None], seats.boxes))
        )


def _contact(one: _Unit, other: _Unit) -> _Contact | None:
    """How one unit seats on another; None where they do not touch."""
    if (one.box[0] > other.box[1] + _FIT).any() or (other.box[0] > one.box[1] + _FIT).any():
        return None
    contact = _Contact()
    for points, ways, radii, boxes in one.seats:
        for others in other.seats:
            _seat(contact, (points, ways, radii, boxes), others)
    return contact if contact.barred or contact.axes else None


def _seat(
    contact: _Contact,
    one: tuple[Floats, Floats, Floats, Floats],
    other: tuple[Floats, Floats, Floats, Floats],
) -> None:
    points, ways, radii, boxes = one
    points_b, ways_b, radii_b, boxes_b = other
    near = (boxes[:, None, 0] <= boxes_b[None, :, 1] + _FIT).all(axis=2) & (
        boxes_b[None, :, 0] <= boxes[:, None, 1] + _FIT
    ).all(axis=2)
    rows, columns = np.nonzero(near & ((radii[:, None] == 0) == (radii_b[None, :] == 0)))
    for a, b in zip(rows.tolist(), columns.tolist(), strict=True):
        away = points_b[b] - points[a]
        if radii[a] == 0:
            if float(ways[a] @ ways_b[b]) < _PARALLEL - 1 and abs(float(away @ ways[a])) < _TOUCH:
                contact.barred.append(ways[a])
        elif (
            radii[a] * radii_b[b] < 0
            and abs(abs(radii[a]) - abs(radii_b[b])) < _FIT
            and abs(float(ways[a] @ ways_b[b])) > 1 - _PARALLEL
            and float(np.linalg.norm(away - (away @ ways[a]) * ways[a])) < _FIT
        ):
            contact.axes.append(ways[a])


def _taken_apart(units: list[_Unit], keeps_first: bool) -> dict[str, Leave]:
    """Units one after another, each along a way that what is still there does not bar."""
    if len(units) < 2:
        return {}
    contacts = _contacts(units) if len(units) <= _MOST else {}
    left = list(range(len(units)))
    stays = 0 if keeps_first else max(left, key=lambda n: (len(_met(contacts, n, left)), units[n].size))
    chosen: list[tuple[int, Floats, str]] = []
    while len(left) > 1:
        best = min(
            (_choice(units, contacts, n, left) for n in left if n != stays), key=lambda each: each[0]
        )
        _, number, way, why = best
        left.remove(number)
        chosen.append((number, way, why))
    return _distances(units, stays, chosen)


def _contacts(units: Sequence[_Unit]) -> dict[tuple[int, int], _Contact]:
    contacts = {}
    for i, one in enumerate(units):
        for j, other in enumerate(units):
            if i != j and (contact := _contact(one, other)) is not None:
                contacts[i, j] = contact
    return contacts


def _met(contacts: Mapping[tuple[int, int], _Contact], number: int, left: Sequence[int]) -> list[int]:
    return [other for other in left if (number, other) in contacts]


def _choice(
    units: Sequence[_Unit], contacts: Mapping[tuple[int, int], _Contact], number: int, left: Sequence[int]
) -> tuple[tuple[float, ...], int, Floats, str]:
    """The best way out for one unit, what speaks for it, and how good it is: the less the better."""
    met = _met(contacts, number, left)
    axes = [axis for other in met for axis in contacts[number, other].axes]
    ways = [side * axis for axis in axes for side in (1.0, -1.0)]
    ways += [-normal for other in met for normal in contacts[number, other].barred]
    ways += [side * axis for axis in np.eye(3) for side in (1.0, -1.0)]
    others = [units[other] for other in left if other != number]
    outward = units[number].box.mean(axis=0) - np.mean([u.box.mean(axis=0) for u in others], axis=0)
    ranked = []
    for place, way in enumerate(_distinct(ways)):
        barred = sum(_bars(contacts[number, other], way) for other in met)
        swept = sum(_sweeps(units[number].box, other.box, way) for other in others)
        on_axis = any(abs(float(way @ axis)) > 1 - _PARALLEL for axis in axes)
        ranked.append((barred, bool(axes) and not on_axis, swept, -float(way @ outward), place, way))
    barred, _, swept, _, _, way = min(ranked, key=lambda each: each[:5])
    size = units[number].size
    score = (float(barred), size if barred else 0.0, float(swept), size)
    return score, number, way, _words(units, contacts, number, met, way, barred)


def _bars(contact: _Contact, way: Floats) -> bool:
    into = any(float(way @ normal) > _PARALLEL for normal in contact.barred)
    return into or any(float(np.linalg.norm(np.cross(way, axis))) > _PARALLEL for axis in contact.axes)


def _sweeps(box: Floats, other: Floats, way: Floats) -> bool:
    """Whether a box that goes along a way for good meets another."""
    low, high = -np.inf, np.inf
    for axis in range(3):
        near, far = other[0, axis] - box[1, axis], other[1, axis] - box[0, axis]
        if abs(way[axis]) < 1e-9:
            if near >= -1e-9 or far <= 1e-9:
                return False
            continue
        a, b = sorted((near / way[axis], far / way[axis]))
        low, high = max(low, a), min(high, b)
    return bool(low < high - 1e-9 and high > 1e-9)


def _words(
    units: Sequence[_Unit], contacts: Mapping[tuple[int, int], _Contact], number: int, met: Sequence[int],
    way: Floats, barred: int,
) -> str:  # fmt: skip
    on = [
        units[other].label
        for other in met
        if any(abs(float(way @ axis)) > 1 - _PARALLEL for axis in contacts[number, other].axes)
    ]
    off = [
        units[other].label
        for other in met
        if any(float(way @ normal) < _PARALLEL - 1 for normal in contacts[number, other].barred)
    ]
    told = f"along the axis it shares with {on[0]}" if on else f"off {off[0]}" if off else "outward"
    return f"{told}; {barred} of its contacts bar it" if barred else told


def _distinct(ways: Sequence[Floats]) -> list[Floats]:
    kept: list[Floats] = []
    for way in ways:
        if not any(float(way @ other) > 1 - _PARALLEL for other in kept):
            kept.append(way)
    return kept


def _distances(
    units: Sequence[_Unit], stays: int, chosen: Sequence[tuple[int, Floats, str]]
) -> dict[str, Leave]:
    """How far each goes: clear of all that goes after it, what goes first the farthest."""
    whole = np.array([np.min([u.box[0] for u in units], axis=0), np.max([u.box[1] for u in units], axis=0)])
    gap = _GAP * float((whole[1] - whole[0]).max())
    placed = [units[stays].box]
    leaves = {}
    for order, (number, way, why) in reversed(list(enumerate(chosen))):
        unit = units[number]
        distance = gap
        for _ in range(len(units)):
            box = unit.box + distance * way
            met = [
                other
                for other in placed
                if ((box[0] < other[1] + gap / 4) & (other[0] < box[1] + gap / 4)).all()
            ]
            if not met:
                break
            distance = max(_clear(unit.box, other, way, distance) for other in met) + gap / 4
        placed.append(unit.box + distance * way)
        x, y, z = (float(v) + 0.0 for v in np.round(way, 12))
        leaves[unit.id] = Leave(_unit_vector((x, y, z)), float(distance), order, why)
    return leaves


def _clear(box: Floats, other: Floats, way: Floats, least: float) -> float:
    """How far a box has to go along a way until it is past another."""
    ends = [
        ((other[1, axis] - box[0, axis]) if way[axis] > 0 else (other[0, axis] - box[1, axis])) / way[axis]
        for axis in range(3)
        if abs(way[axis]) > 1e-9
    ]
    return float(max(min(ends), least))


def _unit_vector(way: Vector) -> Vector:
    length = float(np.linalg.norm(way)) or 1.0
    return way[0] / length, way[1] / length, way[2] / length
