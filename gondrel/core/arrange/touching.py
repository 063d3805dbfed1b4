"""Parts that touch and stand to one another the same way several times, proposed as sub-assemblies."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gondrel.core.arrange.proposal import ProposedGroup, ProposedPart
from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import Shape, located, shape_from_blob
from gondrel.core.kernel.derive import landmarks_of
from gondrel.core.kernel.geometry.distance import touches
from gondrel.core.likeness.fit import Fit, fit_of
from gondrel.core.model.body import Body, BodyFacts
from gondrel.core.model.boxes import box_in_place
from gondrel.core.model.facets import is_facets
from gondrel.core.model.landmarks import Landmarks
from gondrel.core.model.product import IDENTITY, Placement
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["repeated_groups"]

_TOUCH = 1e-3
"""Bodies count as touching up to this distance, mm."""

_MOST_PAIRS = 600
_MOST_LANDMARKS = 4000


@dataclass(frozen=True, slots=True)
class _Item:
    """Something placed: a use of a part, or several together.

    Args:
        kind: parts, or groups, of one kind can stand for one another.
        uses: ids of what it is made of; members: the parts' places in it, blob and matrix.
    """

    kind: str
    uses: tuple[str, ...]
    members: tuple[tuple[str, str, Placement], ...]
    centre: tuple[float, float, float]
    weight: float


def repeated_groups(
    model: Model,
    parts: Sequence[ProposedPart],
    store: BlobStore,
    facts: Mapping[str, BodyFacts],
    *,
    progress: Progress = SILENT,
) -> list[ProposedGroup]:
    """Sub-assemblies, inner ones first. Too many bodies that lie near one another are not looked at."""
    bodies = {body.id: body for _, body in model.bodies()}
    by_parent: defaultdict[str, list[_Item]] = defaultdict(list)
    names = {part.key: part.name for part in parts}
    for part in parts:
        body = bodies[part.body]
        for use in part.uses:
            if use.parent and use.source != part.product:  # what stands in a structure already stays there
                by_parent[use.parent].append(_item(part, use.id, use.placement, use.colour, body, facts))
    groups: list[ProposedGroup] = []
    for parent, items in by_parent.items():
        touching = _Touching(items, store, facts, progress)
        if touching.pairs is not None:
            groups += _Grouping(parent, items, touching.pairs, names, store, len(groups)).groups()
    return groups


def _item(
    part: ProposedPart,
    use: str,
    placement: Placement,
    colour: object,
    body: Body,
    facts: Mapping[str, BodyFacts],
) -> _Item:
    figures = facts[body.blob]
    x, y, z, _ = np.asarray(placement).reshape(4, 4) @ np.array((*figures.centroid, 1.0))
    kind = part.key if colour is None else f"{part.key} {colour}"
    weight = figures.volume or figures.area
    return _Item(kind, (use,), ((part.key, body.blob, placement),), (float(x), float(y), float(z)), weight)


class _Touching:
    """Which items touch: boxes first, then the exact distance; None where there are too many pairs."""

    def __init__(
        self, items: Sequence[_Item], store: BlobStore, facts: Mapping[str, BodyFacts], progress: Progress
    ) -> None:
        self.items, self.store = items, store
        self.shapes: dict[str, Shape | None] = {}
        boxes = np.array([box_in_place(facts[i.members[0][1]], i.members[0][2]) for i in items]).reshape(
            -1, 2, 3
        )
        times = Counter(item.kind for item in items)
        several = np.array(
            [times[item.kind] > 1 for item in items]
        )  # what is there once recurs in no group
        near = [
            (i, int(j))
            for i in np.flatnonzero(several).tolist()
            for j in np.flatnonzero(
                (
                    (boxes[i, 0] - _TOUCH <= boxes[i + 1 :, 1])
                    & (boxes[i + 1 :, 0] <= boxes[i, 1] + _TOUCH)
                ).all(axis=1)
                & several[i + 1 :]
            )
            + i
            + 1
        ]
        self.pairs: set[tuple[int, int]] | None = None
        if len(near) <= _MOST_PAIRS:
            self.pairs = {
                pair for pair in progress.each(near, "Looking for parts that touch") if self._touch(*pair)
            }

    def _touch(self, one: int, other: int) -> bool:
        shapes = [self._placed(self.items[each]) for each in (one, other)]
        if shapes[0] is None or shapes[1] is None:
            return False
        try:
            return touches(shapes[0], shapes[1], _TOUCH)
        except KernelRefused:
            return False

    def _placed(self, item: _Item) -> Shape | None:
        _, blob, placement = item.members[0]
        if blob not in self.shapes:
            data = self.store.get(blob)
            self.shapes[blob] = None if is_facets(data) else shape_from_blob(data)
        shape = self.shapes[blob]
        return None if shape is None else located(shape, placement)


class _Grouping:
    """Joins kinds that always come together, again and again, until none does."""

    def __init__(
        self, parent: str, items: Sequence[_Item], pairs: set[tuple[int, int]], names: Mapping[str, str],
        store: BlobStore, count: int,
    ) -> None:  # fmt: skip
        self.parent, self.store, self.count = parent, store, count
        self.names = dict(names)
        self.items: dict[int, _Item] = dict(enumerate(items))
        self.touch: defaultdict[int, set[int]] = defaultdict(set)
        for one, other in pairs:
            self.touch[one].add(other)
            self.touch[other].add(one)
        self.refused: set[frozenset[int]] = set()
        self.made: dict[str, ProposedGroup] = {}

    def groups(self) -> list[ProposedGroup]:
        """The groups, inner ones first."""
        while (sets := self._best()) is not None:
            fits = self._congruent(sets)
            if fits is None:
                self.refused |= {frozenset(each) for each in sets}
            else:
                self._join(sets, fits)
        return list(self.made.values())

    def _best(self) -> list[list[int]] | None:
        """Sets of items that could be one sub-assembly: one of a kind with all of another that touch it,
        as many times as the first is there and at least twice."""
        kinds: defaultdict[str, list[int]] = defaultdict(list)
        for place, item in self.items.items():
            kinds[item.kind].append(place)
        ranked = []
        for kind, places in kinds.items():
            if len(places) < 2:
                continue
            around: defaultdict[str, list[list[int]]] = defaultdict(list)
            for place in places:
                by_kind: defaultdict[str, list[int]] = defaultdict(list)
                for other in self.touch[place]:
                    by_kind[self.items[other].kind].append(other)
                for other_kind, others in by_kind.items():
                    around[other_kind].append([place, *sorted(others)])
            for other_kind, sets in around.items():
                taken = [other for each in sets for other in each[1:]]
                if (
                    other_kind == kind
                    or len(sets) != len(places)
                    or len({len(each) for each in sets}) != 1
                    or len(set(taken)) != len(taken)
                    or any(frozenset(each) in self.refused for each in sets)
                ):
                    continue
                ranked.append((len(sets), -len(sets[0]), kind, other_kind, sets))
        return max(ranked)[4] if ranked else None

    def _congruent(self, sets: list[list[int]]) -> list[tuple[Fit, list[int]]] | None:
        """The motion from the first set to each, with the items in the order of the first; None unless all
        are the same."""
        first = self._cloud(sets[0])
        if first is None:
            return None
        fits = [(Fit(IDENTITY), sets[0])]
        for each in sets[1:]:
            cloud = self._cloud(each)
            fit = fit_of(first, cloud) if cloud is not None else Fit()
            if fit.placement is None:
                return None
            fits.append((fit, self._in_order(sets[0], each, fit.placement)))
        return fits

    def _in_order(self, first: list[int], each: list[int], placement: Placement) -> list[int]:
        """Items of a set as they stand for those of the first."""
        matrix, left, order = np.asarray(placement).reshape(4, 4), list(each), []
        for place in first:
            at = (matrix @ np.array((*self.items[place].centre, 1.0)))[:3]
            same = [o for o in left if self.items[o].kind == self.items[place].kind]
            nearest = min(same, key=lambda o: float(np.linalg.norm(np.array(self.items[o].centre) - at)))
            left.remove(nearest)
            order.append(nearest)
        return order

    def _cloud(self, places: list[int]) -> Landmarks | None:
        """The landmarks of several items together, those of different parts apart."""
        points, kinds, sizes = [], [], []
        for place in places:
            for key, blob, placement in self.items[place].members:
                marks = landmarks_of(self.store, blob)
                if not marks.whole:
                    return None
                matrix = np.asarray(placement).reshape(4, 4)
                points.append(marks.points @ matrix[:3, :3].T + matrix[:3, 3])
                kinds.append(marks.kinds + 10_000 * (1 + int(key.removeprefix("part"))))
                sizes.append(marks.sizes)
        if sum(map(len, points)) > _MOST_LANDMARKS:
            return None
        return Landmarks(
            np.concatenate(points), np.concatenate(kinds).astype(np.int32), np.concatenate(sizes)
        )

    def _join(self, sets: list[list[int]], fits: list[tuple[Fit, list[int]]]) -> None:
        """One sub-assembly of each set; one that is nowhere else goes into it with its parts."""
        self.count += 1
        key = f"group{self.count}"
        first = [self.items[place] for place in sets[0]]
        whole = {i.kind for i in first if i.kind in self.made and len(self.made[i.kind].uses) == len(sets)}
        heaviest = max(first, key=lambda item: item.weight)
        name = self._named(heaviest, [n for kind, n in self.names.items() if kind not in whole])
        uses = []
        for number, (fit, order) in enumerate(fits, 1):
            assert fit.placement is not None
            ids = tuple(use for place in order for use in self._ids(self.items[place], whole))
            uses.append((fit.placement, ids))
            self._replace(order, key, number)
        for kind in whole:
            del self.made[kind]
        worst = max(fit.accuracy for fit, _ in fits)
        touching = ", ".join(sorted({self.names[item.kind.split(" ")[0]] for item in first}))
        told = f"{touching} touch {len(sets)} times; the worst place is {worst:.1e} mm off"
        self.names[key] = name
        self.made[key] = ProposedGroup(key, name, self.parent, tuple(uses), (told,))

    def _ids(self, item: _Item, whole: set[str]) -> tuple[str, ...]:
        if item.kind not in whole:
            return item.uses
        number = int(item.uses[0].rsplit("/", 1)[1])
        return self.made[item.kind].uses[number - 1][1]

    def _named(self, heaviest: _Item, given: list[str]) -> str:
        """A name after the heaviest part, once."""
        base = self.names[heaviest.kind.split(" ")[0]]
        base = re.sub(r" set( \d+)?$", "", base)
        name, number = f"{base} set", 2
        while name in given:
            name, number = f"{base} set {number}", number + 1
        return name

    def _replace(self, places: list[int], key: str, number: int) -> None:
        """One item in place of several."""
        items = [self.items.pop(place) for place in places]
        made = max(self.touch, default=0) + len(self.items) + 1 + number
        weight = sum(item.weight for item in items)
        centre = np.average(
            [item.centre for item in items], axis=0, weights=[item.weight for item in items]
        )
        members = tuple(member for item in items for member in item.members)
        x, y, z = (float(v) for v in centre)
        self.items[made] = _Item(key, (f"{self.parent}/{key}/{number}",), members, (x, y, z), weight)
        around = set().union(*(self.touch.pop(place, set()) for place in places)) - set(places)
        for other in around:
            self.touch[other] = (self.touch[other] - set(places)) | {made}
        self.touch[made] = around
