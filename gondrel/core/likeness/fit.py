"""Whether one body is another moved or mirrored, by their landmarks, and by which placement.

Landmarks of one kind and size can stand for one another. Two that are rare and lie well apart fix a motion;
each pair of the other body that could be them is tried until all landmarks fall onto ones of their kind.
The motion is then fitted to all of them (the least-squares rotation of two point sets by singular values:
Kabsch, A solution for the best rotation to relate two sets of vectors, Acta Cryst. A32, 1976, from memory).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.model.landmarks import Landmarks
from gondrel.core.model.product import Placement
from gondrel.core.work.late import late

__all__ = ["WITHIN", "Fit", "Symmetry", "fit_of", "symmetry_of"]

_spatial = late("scipy.spatial")

WITHIN = 1e-5
"""How far, mm, a landmark may lie off for bodies to count as equal."""

_SAME_SIZE = 1e-6
_LOOSE = 1e-4
_CLOSE = 0.01
_MOST_TRIED = 20_000
_FEW = 400
_WORDS = {
    0: "planar faces", 1: "cylindrical faces", 2: "conical faces", 3: "spherical faces",
    4: "toroidal faces",
    1000: "straight edges", 1001: "circular edges", 1002: "elliptic edges",
}  # fmt: skip

Points = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Fit:
    """The answer to whether a body is another one moved.

    Args:
        placement: takes the first body onto the second, None when they are not equal.
        accuracy: how far the landmark lies off that fits worst, mm.
        is_mirrored: whether the placement mirrors.
        why_not: the reason, where they are not equal.
    """

    placement: Placement | None = None
    accuracy: float = 0.0
    is_mirrored: bool = False
    why_not: str = ""

    @property
    def is_equal(self) -> bool:
        """Whether the bodies are equal."""
        return self.placement is not None


@dataclass(frozen=True, slots=True)
class Symmetry:
    """The motions that take a body onto itself.

    Args:
        rotations: (n, 3, 3) about the centre, the identity among them.
        centre: mm.
        is_round: whether it may be turned by any angle about an axis; then the rotations are those of the
            axis alone. is_ball: whether any rotation takes it onto itself.
        is_mirrored: whether it is its own mirror image.
    """

    rotations: NDArray[np.float64]
    centre: tuple[float, float, float]
    is_round: bool = False
    is_ball: bool = False
    is_mirrored: bool = False

    @property
    def words(self) -> str:
        """The symmetry for people."""
        if self.is_ball:
            return "a ball"
        if self.is_round:
            return "round about an axis"
        count = len(self.rotations)
        return "none" if count == 1 else f"{count} ways"


def fit_of(one: Landmarks, other: Landmarks, *, mirrored: bool = False, within: float = WITHIN) -> Fit:
    """Whether a body, or its mirror image, is another one moved.

    Args:
        within: mm, how far landmarks may lie off.
    """
    if not (one.whole and other.whole):
        return Fit(why_not="it is a mesh of too many facets to be compared")
    if not len(one) or not len(other):
        return Fit(why_not="there is nothing that it could be known by")
    classes = _classes(one, other)
    if isinstance(classes, str):
        return Fit(why_not=classes)
    here = one.points * (-1.0, 1.0, 1.0) if mirrored else one.points
    pair = _Pair(_Cloud(here, classes[0]), _Cloud(other.points, classes[1]), within)
    for rotation in pair.candidates():
        fitted = pair.fitted(rotation)
        if fitted is not None:
            matrix, accuracy = fitted
            if mirrored:
                matrix = matrix @ np.diag([-1.0, 1.0, 1.0, 1.0])
            return Fit(tuple(matrix.ravel().tolist()), accuracy, mirrored)
    image = "mirror image lies" if mirrored else "motion brings them"
    return Fit(why_not=f"no {image} onto one another: faces and edges of equal sizes stand otherwise")


def symmetry_of(body: Landmarks) -> Symmetry:
    """The motions that take a body onto itself; only the identity of one without landmarks."""
    eye = np.eye(3)[None]
    if not len(body) or not body.whole:
        return Symmetry(eye, (0.0, 0.0, 0.0))
    classes = _classes(body, body)
    assert not isinstance(classes, str)
    cloud = _Cloud(body.points, classes[0])
    pair = _Pair(cloud, cloud, WITHIN)
    rotations: list[NDArray[np.float64]] = []
    for rotation in pair.candidates():
        fitted = pair.fitted(rotation)
        if fitted is None:
            continue
        turned = fitted[0][:3, :3]
        if not any(np.abs(turned - each).max() < _LOOSE for each in rotations):
            rotations.append(turned)
    centre = cloud.centre
    return Symmetry(
        np.array(rotations) if rotations else eye, (float(centre[0]), float(centre[1]), float(centre[2])),
        pair.rank == 1, pair.rank == 0, fit_of(body, body, mirrored=True).is_equal,
    )  # fmt: skip


def _classes(one: Landmarks, other: Landmarks) -> tuple[Ints, Ints] | str:
    """A number for each landmark's kind and size, the same in both bodies, or why they can't be equal."""
    if len(one) != len(other):
        for kind, word in _WORDS.items():
            a, b = int((one.kinds == kind).sum()), int((other.kinds == kind).sum())
            if a != b:
                return f"one has {a} {word}, the other {b}"
        return "their faces or edges are not as many"
    kinds = np.concatenate([one.kinds, other.kinds]).astype(np.int64)
    sizes = np.concatenate([one.sizes, other.sizes])
    labels = kinds
    for column in sizes.T:
        labels = labels * (len(kinds) + 1) + _clustered(labels, column)
        labels = np.unique(labels, return_inverse=True)[1]
    here, there = labels[: len(one)], labels[len(one) :]
    count = int(labels.max()) + 1
    unlike = np.flatnonzero(np.bincount(here, minlength=count) != np.bincount(there, minlength=count))
    if len(unlike):
        at = int(np.flatnonzero(labels == unlike[0])[0])
        word = _WORDS.get(int(kinds[at]) % 100 + 1000 * (int(kinds[at]) >= 1000), "faces or edges")
        return (
            f"their {word} are of other sizes ({sizes[at, 0]:.6g} {'mm' if kinds[at] >= 1000 else 'mm²'})"
        )
    return here.astype(np.int64), there.astype(np.int64)


def _clustered(labels: Ints, values: Points) -> Ints:
    """Numbers of groups of values that are the same but for rounding, within each label."""
    order = np.lexsort((values, labels))
    sorted_values, sorted_labels = values[order], labels[order]
    gap = np.diff(sorted_values) > _SAME_SIZE * np.abs(sorted_values[1:]) + 1e-12
    starts = np.concatenate([[True], gap | (np.diff(sorted_labels) != 0)])
    numbers = np.empty(len(values), np.int64)
    numbers[order] = np.cumsum(starts)
    return numbers


class _Cloud:
    """Landmarks about their centre, by class."""

    def __init__(self, points: Points, classes: Ints) -> None:
        self.centre: Points = points.mean(axis=0)
        self.points: Points = points - self.centre
        self.classes = classes
        self.radii: Points = np.linalg.norm(self.points, axis=1)
        self.scale = max(float(self.radii.max()), 1e-9)
        self._tree = _spatial.cKDTree(self._raised(self.points, classes)) if len(points) > _FEW else None

    def nearest(self, points: Points, classes: Ints) -> tuple[Ints, Points]:
        """Of each point the nearest landmark of its class, and how far it is."""
        if self._tree is not None:
            away, partner = self._tree.query(self._raised(points, classes))
            return partner, away
        apart = ((points[:, None] - self.points[None]) ** 2).sum(axis=2)
        apart[classes[:, None] != self.classes[None]] = np.inf
        partner = apart.argmin(axis=1)
        return partner, np.sqrt(apart[np.arange(len(points)), partner])

    def _raised(self, points: Points, classes: Ints) -> Points:
        """Points with their class as a fourth coordinate, so far apart that none is near another's."""
        return np.column_stack([points, classes * (10 * self.scale)])


class _Pair:
    """Two clouds that could be the same, and the rotations that make them so."""

    def __init__(self, here: _Cloud, there: _Cloud, within: float) -> None:
        self.here, self.there, self.within = here, there, within
        self.loose = max(_LOOSE * here.scale, within)
        self.rank = 3
        apart = 4 * max(here.scale, there.scale) + 1.0
        raised = there.classes * apart + there.radii
        self._order = np.argsort(raised, kind="stable")
        wanted = here.classes * apart + here.radii
        ranked = raised[self._order]
        self._first = np.searchsorted(ranked, wanted - self.loose, "left")
        self._last = np.searchsorted(ranked, wanted + self.loose, "right")

    def candidates(self) -> Iterator[NDArray[np.float64]]:
        """Rotations that take two rare landmarks onto ones of their class."""
        here, there, scale = self.here, self.there, self.here.scale
        off = here.radii > 1e-5 * scale + 1e-9
        if not off.any():
            self.rank = 0
            yield np.eye(3)
            return
        first = self._rarest(off, here.radii)
        axis = here.points[first] / here.radii[first]
        aside = np.linalg.norm(here.points - np.outer(here.points @ axis, axis), axis=1)
        wide = next((w for w in (aside > share * scale for share in (1e-2, 1e-5)) if w.any()), None)
        if wide is None:
            self.rank = 1
            for p in self._alike(first):
                yield _turning(axis, there.points[p] / there.radii[p])
            return
        second = self._rarest(wide, aside)
        back = _frame(here.points[first], here.points[second]).T
        apart = np.linalg.norm(here.points[first] - here.points[second])
        others, tried = self._alike(second), 0
        for p in self._alike(first):
            distances = np.linalg.norm(there.points[others] - there.points[p], axis=1)
            for q in others[np.abs(distances - apart) <= self.loose]:
                tried += 1
                if tried > _MOST_TRIED:
                    return
                yield _frame(there.points[p], there.points[q]) @ back

    def _rarest(self, usable: NDArray[np.bool_], wanted: Points) -> int:
        """The landmark that fewest could be taken for, of those the one where most is wanted."""
        places = np.flatnonzero(usable)
        counts = (self._last - self._first)[places]
        fewest = places[counts == counts.min()]
        return int(fewest[np.argmax(wanted[fewest])])

    def _alike(self, at: int) -> Ints:
        """Landmarks of the other body that could be one of this."""
        return np.sort(self._order[self._first[at] : self._last[at]])

    def fitted(self, rotation: NDArray[np.float64]) -> tuple[NDArray[np.float64], float] | None:
        """The motion near a rotation that brings all landmarks onto ones of their class, and how far the
        worst lies off, None when there is none."""
        here, there = self.here, self.there
        some = slice(None, None, max(1, len(here.points) // 12))
        if there.nearest(here.points[some] @ rotation.T, here.classes[some])[1].max() > self.loose:
            return None
        limit = self.loose
        for _ in range(3):
            partner, away = there.nearest(here.points @ rotation.T, here.classes)
            if away.max() > limit:
                return None
            rotation = _best_rotation(here.points, there.points[partner])
            if away.max() <= _CLOSE * self.loose:
                break
            limit = min(limit, max(10 * self.within, limit / 10))
        away = np.linalg.norm(here.points @ rotation.T - there.points[partner], axis=1)
        if away.max() > self.within:
            return None
        if len(np.unique(partner)) < len(partner):  # several fell onto one: each of the other must be met
            back = here.nearest(there.points @ rotation, there.classes)[1]
            if back.max() > self.within:
                return None
        matrix = np.eye(4)
        matrix[:3, :3] = rotation
        matrix[:3, 3] = there.centre - rotation @ here.centre
        return matrix, float(away.max())


def _frame(first: Points, second: Points) -> NDArray[np.float64]:
    """A right-handed frame, by columns, along one vector with another in its first plane."""
    x = first / np.linalg.norm(first)
    y = second - (second @ x) * x
    y = y / max(float(np.linalg.norm(y)), 1e-300)
    made = np.empty((3, 3))
    made[:, 0], made[:, 1] = x, y
    made[0, 2] = x[1] * y[2] - x[2] * y[1]  # written out: the general cross product takes as long as a fit
    made[1, 2] = x[2] * y[0] - x[0] * y[2]
    made[2, 2] = x[0] * y[1] - x[1] * y[0]
    return made


def _turning(one: Points, other: Points) -> NDArray[np.float64]:
    """A rotation that takes one direction to another."""
    aside = np.eye(3)[int(np.argmin(np.abs(one)))]
    if one @ other > -0.5:
        return (
            _frame(other, one + other) @ _frame(one, one + other).T
            if one @ other < 1 - 1e-12
            else np.eye(3)
        )
    return _frame(other, np.cross(one, aside)) @ _frame(one, np.cross(one, aside)).T


def _best_rotation(here: Points, there: Points) -> NDArray[np.float64]:
    """The rotation that brings one set of points nearest to another."""
    u, _, v = np.linalg.svd(here.T @ there)
    turn = np.diag([1.0, 1.0, float(np.sign(np.linalg.det(u @ v)) or 1.0)])
    rotation: NDArray[np.float64] = v.T @ turn @ u.T
    return rotation
