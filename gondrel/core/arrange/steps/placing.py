"""Steps that place components."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, radians, sin

import numpy as np
from numpy.typing import NDArray

from gondrel.core.arrange.aligning import Frame, alignment
from gondrel.core.arrange.properties import Edit
from gondrel.core.arrange.steps.base import Context, Items, Kind, NotApplicable
from gondrel.core.arrange.steps.structural import one_place
from gondrel.core.arrange.structure import (
    mirror_component,
    move_component,
    repeat_component,
)
from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import compound_of, moved_blob, shape_from_blob
from gondrel.core.kernel.inspect.frames import frame_near
from gondrel.core.kernel.modelling.edits import mirror_of_plane
from gondrel.core.model.facets import is_facets
from gondrel.core.model.product import Placement
from gondrel.core.model.snapshot import Model

__all__ = ["KINDS"]

Matrix = NDArray[np.float64]
Vector = tuple[float, float, float]
_TURNED_ROUND: Placement = (-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1)


def turning(axis: Vector, angle: float, about: Vector) -> Placement:
    """A rotation by an angle, degrees, about an axis through a point, mm (Rodrigues' formula)."""
    x, y, z = np.array(axis, float) / np.linalg.norm(axis)
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    turn = np.eye(3) + sin(radians(angle)) * cross + (1 - cos(radians(angle))) * cross @ cross
    matrix = np.eye(4)
    matrix[:3, :3] = turn
    matrix[:3, 3] = np.array(about) - turn @ np.array(about)
    return tuple(matrix.ravel().tolist())


def _shift(by: np.ndarray) -> Placement:  # type: ignore[type-arg]
    matrix = np.eye(4)
    matrix[:3, 3] = by
    return tuple(matrix.ravel().tolist())


@dataclass(frozen=True, slots=True)
class Move:
    """by: mm along x, y, z; turn: degrees about axis through about; place: which of its places, from 1."""

    by: Vector = (0.0, 0.0, 0.0)
    turn: float = 0.0
    axis: Vector = (0.0, 0.0, 1.0)
    about: Vector = (0.0, 0.0, 0.0)
    place: int = 1

    def run(self, context: Context, items: Items) -> Edit:
        use = one_place(context, items, self.place)
        motion = np.asarray(_shift(np.array(self.by))).reshape(4, 4) @ np.asarray(
            turning(self.axis, self.turn, self.about)
        ).reshape(4, 4)
        words = f"by {self.by[0]:g}, {self.by[1]:g}, {self.by[2]:g} mm" + (
            f" and turn it by {self.turn:g}\u00b0" if self.turn else ""
        )
        return move_component(context.model, use.id, tuple(motion.ravel().tolist()), words)


@dataclass(frozen=True, slots=True)
class RepeatLine:
    """count: places in all; step: mm from one to the next; place: which of its places, from 1."""

    count: int
    step: Vector
    place: int = 1

    def run(self, context: Context, items: Items) -> Edit:
        use = one_place(context, items, self.place)
        motions = [_shift(np.array(self.step) * n) for n in range(1, self.count)]
        return repeat_component(context.model, use.id, motions, f"{self.count} times along a line")


@dataclass(frozen=True, slots=True)
class RepeatCircle:
    """count: places in all; axis through about, mm; angle: degrees that they share, 360 for all round."""

    count: int
    axis: Vector = (0.0, 0.0, 1.0)
    about: Vector = (0.0, 0.0, 0.0)
    angle: float = 360.0
    place: int = 1

    def run(self, context: Context, items: Items) -> Edit:
        use = one_place(context, items, self.place)
        whole = abs(self.angle - 360) < 1e-9
        step = self.angle / max(self.count if whole else self.count - 1, 1)
        motions = [turning(self.axis, step * n, self.about) for n in range(1, self.count)]
        return repeat_component(context.model, use.id, motions, f"{self.count} times on a circle")


@dataclass(frozen=True, slots=True)
class RepeatGrid:
    """rows, columns: how many; row_step, column_step: mm from one to the next."""

    rows: int
    columns: int
    row_step: Vector
    column_step: Vector
    place: int = 1

    def run(self, context: Context, items: Items) -> Edit:
        use = one_place(context, items, self.place)
        row, column = np.array(self.row_step), np.array(self.column_step)
        motions = [
            _shift(row * r + column * c) for r in range(self.rows) for c in range(self.columns) if r or c
        ]
        return repeat_component(context.model, use.id, motions, f"{self.rows} by {self.columns} times")


@dataclass(frozen=True, slots=True)
class Mirror:
    """at, normal: of the plane, in the frame of the assembly it is in."""

    normal: Vector
    at: Vector = (0.0, 0.0, 0.0)
    place: int = 1

    def run(self, context: Context, items: Items) -> Edit:
        def image(blob: str) -> str:
            return context.store.put(moved_blob(context.store.get(blob), _TURNED_ROUND))

        use = one_place(context, items, self.place)
        return mirror_component(context.model, use.id, mirror_of_plane(self.at, self.normal), image)


@dataclass(frozen=True, slots=True)
class Spot:
    """A point on or near a face: of which item, in which of its places, from 1, mm in the item's frame."""

    item: Items
    at: Vector
    place: int = 1


@dataclass(frozen=True, slots=True)
class Align:
    """mine: a face of the component that moves; to: the face that it is brought to; how: face, axis or
    frame; flip: turned the other way about; gap: mm, left between."""

    mine: Spot
    to: Spot
    how: str = "face"
    flip: bool = False
    gap: float = 0.0

    def run(self, context: Context, items: Items) -> Edit:
        use = one_place(context, self.mine.item, self.mine.place)
        house, here = _in_space(context.model, use.id)
        label = context.model.product(use.product).label
        target = context.single(self.to.item)
        if target.id in context.model.roots:
            there = np.eye(4)
        else:
            other = one_place(context, self.to.item, self.to.place)
            if other.id == use.id:
                raise UsageError("a component can't be aligned with itself")
            there = _in_space(context.model, other.id)[1]
        mine, to = _frame(context, self.mine, here), _frame(context, self.to, there)
        if self.how == "face" and not (mine[1] and to[1]):
            raise UsageError("face to face needs two plane faces")
        if self.how == "axis" and (mine[1] or to[1]):
            raise UsageError("axis to axis needs two round faces")
        motion = alignment(mine[0], to[0], self.how, flip=self.flip, gap=self.gap)
        inner = np.linalg.inv(house) @ np.reshape(motion, (4, 4)) @ house
        words = f"with its {self.how} to {target.label}"
        _, model = move_component(context.model, use.id, tuple(inner.ravel().tolist()), words)
        return f"Align {label} {words}", model


def _in_space(model: Model, use_id: str) -> tuple[Matrix, Matrix]:
    """Where the assembly around a component stands, and the component itself, in its first place."""
    houses: dict[tuple[str, ...], Matrix] = {}
    for place in model.walk():
        matrix = np.asarray(place.placement, float).reshape(4, 4)
        houses[place.path] = matrix
        if place.path and place.path[-1] == use_id:
            return houses.get(place.path[:-1], np.eye(4)), matrix
    raise NotApplicable("the component stands nowhere")


def _frame(context: Context, spot: Spot, placed: Matrix) -> tuple[Frame, bool]:
    """The frame of a spot's face in space, and whether it is a plane."""
    product = context.single(spot.item)
    bodies = [b for b in product.bodies if not is_facets(context.store.get(b.blob))]
    if not bodies:
        raise NotApplicable(f"{product.label} has no exact face")
    shape = compound_of([shape_from_blob(context.store.get(b.blob)) for b in bodies])
    found = frame_near(shape, spot.at)
    turn = placed[:3, :3]
    origin = turn @ np.array(found.origin) + placed[:3, 3]
    return (origin, turn @ np.array(found.along), turn @ np.array(found.across)), found.is_plane


KINDS = (
    Kind("align", "A component is brought to a face of another", Align),
    Kind("move", "A component is moved or turned", Move),
    Kind("repeat-line", "A component is repeated along a line", RepeatLine),
    Kind("repeat-circle", "A component is repeated on a circle", RepeatCircle),
    Kind("repeat-grid", "A component is repeated in a grid", RepeatGrid),
    Kind("mirror", "The mirror image of a component is added", Mirror),
)
