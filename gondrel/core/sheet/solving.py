"""A profile with new sizes, its relations kept: what else can stay stays.

Source: Newton's method for the conditions; in what they leave free, least squares for one wish after the
other, each in the null space of those before (Nocedal and Wright, Numerical Optimization, chapter 16, for
the null space of conditions), through SciPy's linear algebra.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import UsageError
from gondrel.core.model.profile import Profile
from gondrel.core.model.relations import Freedom, Relation, Size, Solved
from gondrel.core.sheet.conditions import conditions, derivatives, preferences
from gondrel.core.sheet.unknowns import Unknowns
from gondrel.core.work.late import late

__all__ = ["freedom_of", "resized"]

_linalg = late("scipy.linalg")

Floats = NDArray[np.float64]

_ROUNDS, _LAST, _STEPS = 40, 20, 8
_EXACT = 1e-12
_RANK = 1e-8
_HOLDS = 1e-9
"""Conditions off by no more, mm, hold."""


def resized(
    profile: Profile, relations: Sequence[Relation], sizes: Sequence[Size]
) -> tuple[Profile, Solved]:
    """The profile with sizes of new values, every relation kept.

    Regions are those of before: they are to be found anew.

    Raises:
        UsageError: when sizes and relations contradict one another, naming the worst; or when a size is no
            size.
    """
    for size in sizes:
        if not np.isfinite(size.value) or (size.kind != "angle" and size.value <= 0.0):
            raise UsageError(f"{size.name} can't be {size.value:g}: it must be more than 0")
    unknowns = Unknowns.of(profile)
    related = [relation for relation in relations if relation.kind != "coincident"]
    numbers = unknowns.start
    before = {size.name: _measured(unknowns, size, numbers) for size in sizes}
    for step in range(1, _STEPS + 1):  # large changes are made bit by bit
        share = step / _STEPS
        wanted = [_at(size, before[size.name] + share * (size.value - before[size.name])) for size in sizes]
        numbers = _solved(unknowns, related, wanted, numbers)
    off = np.abs(conditions(unknowns, related, list(sizes), numbers))
    worst = float(off.max(initial=0.0))
    if worst > _HOLDS * max(1.0, float(np.abs(numbers).max(initial=1.0))):
        raise UsageError(_contradiction(unknowns, related, sizes, off))
    return unknowns.taken(numbers), Solved(worst, freedom_of(unknowns.taken(numbers), relations, sizes))


def _at(size: Size, value: float) -> Size:
    return Size(size.name, size.kind, size.curves, value)


def _measured(unknowns: Unknowns, size: Size, numbers: Floats) -> float:
    """What a size is now: what its condition is off by from nothing; an angle as it was found."""
    if size.kind == "angle":
        first, last = size.curves
        nodes = numbers[: 2 * len(unknowns.profile.nodes)].reshape(-1, 2)
        one, other = (
            nodes[e[1]] - nodes[e[0]] for e in (unknowns.profile.ends[first], unknowns.profile.ends[last])
        )
        return float(np.arctan2(one[0] * other[1] - one[1] * other[0], one @ other))
    return float(conditions(unknowns, [], [_at(size, 0.0)], numbers)[-1])


def _solved(
    unknowns: Unknowns, relations: Sequence[Relation], sizes: Sequence[Size], numbers: Floats
) -> Floats:
    kept = preferences(unknowns, numbers)

    def off(at: Floats) -> Floats:
        return conditions(unknowns, list(relations), list(sizes), at)

    def wishes(at: Floats) -> list[Floats]:
        return [now - before for now, before in zip(preferences(unknowns, at), kept, strict=True)]

    for number in range(_ROUNDS + _LAST):
        slope = derivatives(off, numbers)
        step, free = _least(slope, -off(numbers))
        if number < _ROUNDS:  # and at last only what must be
            step = _with_wishes(step, free, wishes, numbers)
        numbers = numbers + step
        if float(np.abs(step).max()) < _EXACT * max(1.0, float(np.abs(numbers).max())):
            break
    return numbers


def _with_wishes(
    step: Floats, free: Floats, wishes: Callable[[Floats], list[Floats]], numbers: Floats
) -> Floats:
    """A step that also serves what should stay, one wish after the other, none at an earlier one's cost."""
    for place, wish in enumerate(wishes(numbers)):
        if not free.shape[1]:
            break

        def here(at: Floats, place: int = place) -> Floats:
            return wishes(at)[place]

        inner = derivatives(here, numbers)
        towards, rest = _least(inner @ free, -(wish + inner @ step))
        step = step + free @ towards
        free = free @ rest
    return step


def _least(matrix: Floats, target: Floats) -> tuple[Floats, Floats]:
    """The shortest of the solutions by least squares, and the directions, (n, k), that change nothing.

    Source: singular values; those below a fixed bound are none, since derivatives here are about 1.
    """
    count = matrix.shape[1]
    if not matrix.shape[0]:
        return np.zeros(count), np.eye(count)
    left, sizes, right = _linalg.svd(matrix)
    rank = int((sizes > _RANK).sum())
    solution = right[:rank].T @ ((left[:, :rank].T @ target) / sizes[:rank])
    return np.asarray(solution), np.asarray(right[rank:].T)


def _contradiction(
    unknowns: Unknowns, relations: Sequence[Relation], sizes: Sequence[Size], off: Floats
) -> str:
    """Which of what is asked does not go together, in words."""
    named: list[str] = []
    for number in range(len(unknowns.profile.curves)):
        named += [f"curve {number + 1} as an arc"] * (2 if unknowns.is_open_arc(number) else 0)
    for relation in relations:
        of = " and ".join(str(n + 1) for n in relation.curves)
        named += [f"{relation.kind} of {of}"] * (2 if relation.kind == "concentric" else 1)
    named += [size.name for size in sizes]
    worst = [named[place] for place in np.argsort(-off)[:3].tolist() if off[place] > _HOLDS]
    return (
        f"these sizes can't all be had with what holds: {', '.join(dict.fromkeys(worst))} would be off by "
        f"{float(off.max()):.3g} mm; drop a relation, or change another size with it"
    )


def freedom_of(profile: Profile, relations: Sequence[Relation], sizes: Sequence[Size] = ()) -> Freedom:
    """In how many ways a profile can change with its relations and sizes kept, and which curves can."""
    unknowns = Unknowns.of(profile)
    related = [relation for relation in relations if relation.kind != "coincident"]
    numbers = unknowns.start
    if not len(numbers):
        return Freedom(0, (), 0)

    def off(at: Floats) -> Floats:
        return conditions(unknowns, related, list(sizes), at)

    values = off(numbers)
    slope = derivatives(off, numbers) if len(values) else np.zeros((0, len(numbers)))
    rigid = _rigid(unknowns, numbers)
    whole = np.concatenate([slope, rigid])
    rank = int(np.linalg.matrix_rank(slope, tol=_RANK)) if len(values) else 0
    _, free = _least(whole, np.zeros(len(whole)))
    moving = np.linalg.norm(free, axis=1) > 1e-6 if free.shape[1] else np.zeros(len(numbers), bool)
    changing = tuple(
        number
        for number in range(len(profile.curves))
        if any(moving[at] for at in _numbers_of(unknowns, number))
    )
    return Freedom(free.shape[1], changing, len(values) - rank)


def _rigid(unknowns: Unknowns, numbers: Floats) -> Floats:
    """Shifts and a turn of the whole, as rows."""
    rows = np.zeros((3, len(numbers)))
    xs = [*range(0, 2 * len(unknowns.profile.nodes), 2), *(at for at in unknowns.centres if at >= 0)]
    places = np.array(xs, dtype=int)
    middle = numbers[places].mean(), numbers[places + 1].mean()
    rows[0, places] = 1.0
    rows[1, places + 1] = 1.0
    rows[2, places] = -(numbers[places + 1] - middle[1])
    rows[2, places + 1] = numbers[places] - middle[0]
    lengths = np.maximum(np.linalg.norm(rows, axis=1), 1e-12)
    return np.asarray(rows / lengths[:, None])


def _numbers_of(unknowns: Unknowns, curve: int) -> list[int]:
    ends = [node for node in unknowns.profile.ends[curve] if node >= 0]
    made = [at for node in ends for at in (2 * node, 2 * node + 1)]
    centre = unknowns.centres[curve]
    return made + ([centre, centre + 1, centre + 2] if centre >= 0 else [])
