"""Which of many bodies are the same shape."""

from __future__ import annotations

from bisect import bisect_left
from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np

from gondrel.core.likeness.fit import Fit, fit_of
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.landmarks import Landmarks
from gondrel.core.model.product import IDENTITY, Placement
from gondrel.core.model.snapshot import compose

__all__ = ["AREA_ERROR", "Group", "alike_by_figures", "clusters", "grouped", "joined"]

AREA_ERROR = 1e-5
"""By how much, relative, areas and volumes of equal bodies may differ: what the kernel's integration of
splines was measured to be off, tenfold."""


@dataclass(slots=True)
class Group:
    """Bodies of one shape, by the hashes of their B-reps.

    Args:
        first: the one that stands for all; members: how the first is moved to be each, itself included.
        mirror_of: the first of the group whose mirror image they are, empty where there is none.
    """

    first: str
    members: dict[str, Fit] = field(default_factory=dict)
    mirror_of: str = ""
    mirror: Fit = field(default_factory=Fit)

    @classmethod
    def of(cls, blob: str) -> Group:
        """A body that is like no other."""
        return cls(blob, {blob: Fit(IDENTITY)})

    def motion(self, one: str, other: str) -> Placement:
        """The motion that takes a member onto another."""
        if one == other:
            return IDENTITY
        first, then = (
            np.asarray(self.members[blob].placement, float).reshape(4, 4) for blob in (one, other)
        )
        return tuple((then @ np.linalg.inv(first)).ravel().tolist())


def clusters(blobs: Iterable[str], facts: Mapping[str, BodyFacts]) -> list[list[str]]:
    """Bodies in sets, so that no two of different sets can be equal or mirror images; each in its order."""
    order = {blob: place for place, blob in enumerate(dict.fromkeys(blobs))}
    kinds: defaultdict[object, list[str]] = defaultdict(list)
    for blob in order:
        kinds[facts[blob].faces, facts[blob].surfaces].append(blob)
    made: list[list[str]] = []
    for alike in kinds.values():
        alike.sort(key=lambda blob: facts[blob].area)
        last = -1.0
        for blob in alike:
            area = facts[blob].area
            if last < 0 or area * (1 - 2 * AREA_ERROR) - 2e-9 > last:
                made.append([])
            made[-1].append(blob)
            last = area
    return [sorted(cluster, key=order.__getitem__) for cluster in made]


def joined(
    parts: Iterable[Iterable[Group]],
    facts: Mapping[str, BodyFacts],
    landmarks: Callable[[str], Landmarks],
) -> list[Group]:
    """Groups of several sets of bodies as groups of all of them."""
    given = {group.first: group for part in parts for group in part}
    made = grouped(given, facts, landmarks)
    for group in made:
        firsts, group.members = group.members, {}
        for first, fit in firsts.items():
            for member, inner in given[first].members.items():
                group.members[member] = _after(fit, inner)
    return made


def _after(first: Fit, then: Fit) -> Fit:
    """The fit of a body that is another moved, which is a third one moved."""
    if first.placement is None or then.placement is None:
        return Fit(why_not=first.why_not or then.why_not)
    placement = compose(then.placement, first.placement)
    return Fit(placement, first.accuracy + then.accuracy)


def grouped(
    blobs: Iterable[str], facts: Mapping[str, BodyFacts], landmarks: Callable[[str], Landmarks]
) -> list[Group]:
    """Bodies by shape, in the order in which the first of each comes.

    Args:
        landmarks: of a blob; asked for only where figures are alike.
    """
    groups: list[Group] = []
    sizes: list[tuple[float, int]] = []  # area of each group's first, sorted, and the group's place
    held: dict[str, Landmarks] = {}

    def of(blob: str) -> Landmarks:
        if blob not in held:
            held[blob] = landmarks(blob)
        return held[blob]

    for blob in dict.fromkeys(blobs):
        area = facts[blob].area
        near = _near(sizes, area)
        mirror: tuple[str, Fit] | None = None
        for place in near:
            group = groups[place]
            if not alike_by_figures(facts[group.first], facts[blob]):
                continue
            fit = fit_of(of(group.first), of(blob))
            if fit.is_equal:
                group.members[blob] = fit
                held.pop(blob)
                break
            image = fit_of(of(group.first), of(blob), mirrored=True)
            if image.is_equal:
                mirror = group.first, image
        else:
            new = Group(blob, {blob: Fit(IDENTITY)}, *(mirror or ()))
            sizes.insert(bisect_left(sizes, (area, len(groups))), (area, len(groups)))
            groups.append(new)
    return groups


def _near(sizes: list[tuple[float, int]], area: float) -> list[int]:
    """Groups whose area is that of a body, in their order."""
    low = bisect_left(sizes, (area * (1 - AREA_ERROR) - 1e-9, -1))
    high = bisect_left(sizes, (area * (1 + AREA_ERROR) + 1e-9, 1 << 60))
    return sorted(place for _, place in sizes[low:high])


def alike_by_figures(one: BodyFacts, other: BodyFacts) -> bool:
    """Whether two bodies could be equal or mirror images by what was measured of them."""
    if (one.faces, one.surfaces) != (other.faces, other.surfaces):
        return False
    reach = max(one.inertia[2], other.inertia[2])
    pairs = ((one.volume, other.volume), (one.area, other.area))
    if any(abs(a - b) > AREA_ERROR * max(abs(a), abs(b)) + 1e-9 for a, b in pairs):
        return False
    moments = zip(one.inertia, other.inertia, strict=True)
    return all(abs(a - b) <= AREA_ERROR * reach + 1e-9 for a, b in moments)
