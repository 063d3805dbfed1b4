"""Steps that change structure."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from math import cos, radians, sin

import numpy as np

from gondrel.core.arrange.properties import Edit
from gondrel.core.arrange.recovery import propose
from gondrel.core.arrange.steps.base import Context, Items, Kind, NotApplicable
from gondrel.core.arrange.structure import (
    bodies_to_components,
    delete_components,
    dissolve,
    flatten,
    group_components,
    make_independent,
    mirror_component,
    move_component,
    move_into,
    repeat_component,
    replace_product,
)
from gondrel.core.arrange.taking import take_proposal
from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import moved_blob
from gondrel.core.kernel.modelling.edits import mirror_of_plane
from gondrel.core.model.product import Occurrence, Placement

__all__ = ["KINDS", "turning"]

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
class Recover:
    """groups: whether parts that touch and recur become sub-assemblies."""

    groups: bool = True

    def run(self, context: Context, items: Items) -> Edit:
        proposal = propose(context.model, context.store, groups=self.groups, progress=context.progress)
        if not proposal.changes:
            raise NotApplicable("nothing is the same shape as anything else, or it is one part already")
        return take_proposal(context.model, proposal)


@dataclass(frozen=True, slots=True)
class Components:
    """Bodies become components of the product they are in."""

    def run(self, context: Context, items: Items) -> Edit:
        bodies = [body.id for product in context.products(items) for body in product.bodies]
        return bodies_to_components(context.model, bodies)


@dataclass(frozen=True, slots=True)
class Group:
    """name, number: of the new sub-assembly."""

    name: str
    number: str = ""

    def run(self, context: Context, items: Items) -> Edit:
        return group_components(context.model, [u.id for u in context.uses(items)], self.name, self.number)


@dataclass(frozen=True, slots=True)
class Dissolve:
    """Sub-assemblies are replaced by what is in them."""

    def run(self, context: Context, items: Items) -> Edit:
        return dissolve(context.model, [use.id for use in context.uses(items)])


@dataclass(frozen=True, slots=True)
class Flatten:
    """levels: how many levels are dissolved, 0 for all."""

    levels: int = 0

    def run(self, context: Context, items: Items) -> Edit:
        product = (
            context.single(items) if items != Items() else context.model.product(context.model.roots[0])
        )
        return flatten(context.model, product.id, levels=self.levels)


@dataclass(frozen=True, slots=True)
class Independent:
    """name: of the copy; place: which of its places, from 1."""

    name: str = ""
    place: int = 1

    def run(self, context: Context, items: Items) -> Edit:
        return make_independent(context.model, _one(context, items, self.place).id, self.name)


@dataclass(frozen=True, slots=True)
class Replace:
    """by: the product that is put in the places."""

    by: Items

    def run(self, context: Context, items: Items) -> Edit:
        uses = [use.id for use in context.uses(items)]
        return replace_product(context.model, uses, context.single(self.by).id)


@dataclass(frozen=True, slots=True)
class MoveInto:
    """into: the sub-assembly they are put into; they stay where they are in space."""

    into: Items

    def run(self, context: Context, items: Items) -> Edit:
        house = context.single(self.into)
        places = [use.id for _, use in context.model.occurrences() if use.product == house.id]
        target = house.id if house.id in context.model.roots else (places or [""])[0]
        return move_into(context.model, [use.id for use in context.uses(items)], target)


@dataclass(frozen=True, slots=True)
class Delete:
    """Products go with all their places."""

    def run(self, context: Context, items: Items) -> Edit:
        if items == Items():
            raise UsageError("nothing is said of what is to be deleted")
        if items.inside:
            return delete_components(context.model, [use.id for use in context.uses(items)])
        return delete_components(context.model, (), [p.id for p in context.products(items)])


@dataclass(frozen=True, slots=True)
class Move:
    """by: mm along x, y, z; turn: degrees about axis through about; place: which of its places, from 1."""

    by: Vector = (0.0, 0.0, 0.0)
    turn: float = 0.0
    axis: Vector = (0.0, 0.0, 1.0)
    about: Vector = (0.0, 0.0, 0.0)
    place: int = 1

    def run(self, context: Context, items: Items) -> Edit:
        use = _one(context, items, self.place)
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
        use = _one(context, items, self.place)
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
        use = _one(context, items, self.place)
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
        use = _one(context, items, self.place)
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

        use = _one(context, items, self.place)
        return mirror_component(context.model, use.id, mirror_of_plane(self.at, self.normal), image)


def _one(context: Context, items: Items, place: int) -> Occurrence:
    """One place of what is meant; of several in one assembly the one of that number."""
    uses = context.uses(items)
    by_product: defaultdict[str, list[Occurrence]] = defaultdict(list)
    for use in uses:
        by_product[use.product].append(use)
    if len(by_product) != 1:
        raise NotApplicable(f"{len(by_product)} items are {items}; the step is about one")
    if not 0 < place <= len(uses):
        raise NotApplicable(f"{items} stands in {len(uses)} places; there is no place {place}")
    return uses[place - 1]


KINDS = (
    Kind("recover", "Equal bodies become one part, repeated groups sub-assemblies", Recover),
    Kind("components", "Bodies become components", Components),
    Kind("group", "Components are put into a new sub-assembly", Group),
    Kind("dissolve", "Sub-assemblies are replaced by what is in them", Dissolve),
    Kind("flatten", "All levels below a product become one", Flatten),
    Kind("independent", "A shared product becomes one of its own in one place", Independent),
    Kind("replace", "Another product is put in the places", Replace),
    Kind("move-into", "Components are moved into a sub-assembly", MoveInto),
    Kind("delete", "Products or places go", Delete),
    Kind("move", "A component is moved or turned", Move),
    Kind("repeat-line", "A component is repeated along a line", RepeatLine),
    Kind("repeat-circle", "A component is repeated on a circle", RepeatCircle),
    Kind("repeat-grid", "A component is repeated in a grid", RepeatGrid),
    Kind("mirror", "The mirror image of a component is added", Mirror),
)
