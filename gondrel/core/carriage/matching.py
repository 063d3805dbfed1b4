"""Which product, occurrence and body of the returned model is which of the received one.

Products are matched by identity, structure and size, bodies by their signature, occurrences by
child, name and place; where several are alike an optimal assignment decides.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Collection, Hashable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from gondrel.core.likeness.fit import fit_of
from gondrel.core.likeness.groups import alike_by_figures
from gondrel.core.model.body import Body, BodyFacts
from gondrel.core.model.landmarks import Landmarks
from gondrel.core.model.mass import Totals, totals_of
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.work.late import late

__all__ = ["Matching", "match_models", "signature_distance"]

_optimize = late("scipy.optimize")

Facts = Mapping[str, BodyFacts]

_ENOUGH = 3.0
_SAME_SIZE = 1e-4
_UNALIKE = 1e6


@dataclass(slots=True)
class Matching:
    """Ids of the meant model to ids of the returned one, and what found no partner.

    Args:
        copies: returned product to the meant product it is a further copy of.
    """

    products: dict[str, str] = field(default_factory=dict)
    bodies: dict[str, str] = field(default_factory=dict)
    occurrences: dict[str, str] = field(default_factory=dict)
    copies: dict[str, str] = field(default_factory=dict)
    added_products: list[str] = field(default_factory=list)
    added_bodies: list[str] = field(default_factory=list)
    added_occurrences: list[str] = field(default_factory=list)


def match_models(
    meant: Model, returned: Model, facts: Facts, landmarks: Callable[[str], Landmarks] | None = None
) -> Matching:
    """Match two models.

    Args:
        facts: of the bodies of both, by hash.
        landmarks: of a body, by hash; where they are given, parts that neither name nor size told are known
            by the shape of their one body, wherever it stands in them.
    """
    matching = Matching()
    _match_products(meant, returned, facts, matching)
    if landmarks is not None:
        _match_by_shape(meant, returned, facts, landmarks, matching)
    origin = {theirs: ours for ours, theirs in matching.products.items()} | matching.copies
    for ours_id, theirs_id in matching.products.items():
        ours, theirs = meant.product(ours_id), returned.product(theirs_id)
        _match_bodies(ours.bodies, theirs.bodies, facts, matching)
        _match_occurrences(ours, theirs, origin, matching)
    return matching


def _assign(cost: np.ndarray) -> list[tuple[int, int]]:  # type: ignore[type-arg]
    if cost.size == 0:
        return []
    rows, columns = _optimize.linear_sum_assignment(cost)
    return [(int(r), int(c)) for r, c in zip(rows, columns, strict=True)]


def _likeness(ours: Product, theirs: Product, a: Totals, b: Totals) -> float:
    """How well two products fit: identity counts most, then size, then structure."""
    score = 0.0
    if ours.number and ours.number == theirs.number:
        score += 4.0
    if ours.name and ours.name == theirs.name:
        score += 3.0
    if ours.revision and ours.revision == theirs.revision:
        score += 0.5
    if _alike(a.volume, b.volume) and _alike(a.area, b.area):
        score += 3.0 if a.area else 0.5
    if len(ours.occurrences) == len(theirs.occurrences):
        score += 1.0
    if len(ours.bodies) == len(theirs.bodies):
        score += 0.5
    if ours.is_assembly != theirs.is_assembly:
        score -= 2.0
    return score


def _alike(one: float, other: float) -> bool:
    return abs(one - other) <= _SAME_SIZE * max(abs(one), abs(other))


def _match_products(meant: Model, returned: Model, facts: Facts, matching: Matching) -> None:
    ours_totals, theirs_totals = totals_of(meant, facts), totals_of(returned, facts)
    ours, theirs = list(meant.products), list(returned.products)
    _match_unique(ours, theirs, matching)
    _match_unique(ours, theirs, matching, (ours_totals, theirs_totals))
    ours = [p for p in ours if p.id not in matching.products]
    taken = set(matching.products.values())
    theirs = [p for p in theirs if p.id not in taken]
    cost = np.zeros((len(ours), len(theirs)))
    for i, a in enumerate(ours):
        for j, b in enumerate(theirs):
            root = 1.0 if (a.id in meant.roots) == (b.id in returned.roots) else 0.0
            cost[i, j] = -_likeness(a, b, ours_totals[a.id], theirs_totals[b.id]) - root
    for i, j in _assign(cost):
        if -cost[i, j] >= _ENOUGH:
            matching.products[ours[i].id] = theirs[j].id
    taken = set(matching.products.values())
    for extra in (p for p in returned.products if p.id not in taken):
        scores = [
            (_likeness(p, extra, ours_totals[p.id], theirs_totals[extra.id]), p.id) for p in meant.products
        ]
        best = max(scores, default=(0.0, ""))
        if best[0] >= 2 * _ENOUGH:
            matching.copies[extra.id] = best[1]
        else:
            matching.added_products.append(extra.id)


def _match_by_shape(
    meant: Model, returned: Model, facts: Facts, landmarks: Callable[[str], Landmarks], matching: Matching
) -> None:
    """Pair parts of one body that are left with those of the same shape that are."""
    taken = set(matching.products.values())

    def alone(model: Model, known: Collection[str]) -> list[tuple[Product, str]]:
        return [
            (p, p.bodies[0].blob) for p in model.products
            if p.id not in known and len(p.bodies) == 1 and not p.occurrences and p.bodies[0].blob in facts
        ]  # fmt: skip

    left = alone(returned, taken)
    for ours, blob in alone(meant, matching.products):
        for place, (theirs, other) in enumerate(left):
            if alike_by_figures(facts[blob], facts[other]) and (
                blob == other or fit_of(landmarks(blob), landmarks(other)).is_equal
            ):
                matching.products[ours.id] = theirs.id
                matching.copies.pop(theirs.id, None)
                if theirs.id in matching.added_products:
                    matching.added_products.remove(theirs.id)
                del left[place]
                break


def _match_unique(
    ours: list[Product],
    theirs: list[Product],
    matching: Matching,
    totals: tuple[Mapping[str, Totals], Mapping[str, Totals]] | None = None,
) -> None:
    """Pair products whose number, name and revision are given and unique on both sides.

    Args:
        totals: figures of both sides, to tell products of one name apart by where they stand.
    """
    taken = set(matching.products.values())

    def table(products: list[Product], figures: Mapping[str, Totals] | None) -> dict[Hashable, list[str]]:
        rows: defaultdict[Hashable, list[str]] = defaultdict(list)
        for p in products:
            if p.id in matching.products or p.id in taken:
                continue
            where: Hashable = None
            if figures is not None and (centre := figures[p.id].centroid) is not None:
                where = tuple(round(v, 2) for v in centre)
            rows[p.number, p.name, p.revision, len(p.occurrences), len(p.bodies), where].append(p.id)
        return rows

    first, second = totals or (None, None)
    other = table(theirs, second)
    pairs = [
        (ids[0], other[key][0])
        for key, ids in table(ours, first).items()
        if any(key[:2]) and len(ids) == 1 and len(other.get(key, ())) == 1  # type: ignore[index]
    ]
    matching.products.update(pairs)


def signature_distance(one: BodyFacts, other: BodyFacts) -> float:
    """How unlike two bodies are, 0 for equal ones: volume, area, inertia, faces and place."""
    size = max(one.area, other.area, one.length, other.length, 1e-12)
    pairs = [
        (one.volume, other.volume),
        (one.area, other.area),
        (one.length, other.length),
        *zip(one.inertia, other.inertia, strict=True),
    ]
    unlike: float = sum(abs(a - b) / max(abs(a), abs(b), 1e-12) for a, b in pairs)
    shift = float(np.linalg.norm(np.subtract(one.centroid, other.centroid)))
    unlike += shift / size**0.5
    kinds_a, kinds_b = dict(one.surfaces), dict(other.surfaces)
    for kind in kinds_a.keys() | kinds_b.keys():
        unlike += 0.1 * abs(kinds_a.get(kind, 0) - kinds_b.get(kind, 0)) / max(one.faces, 1)
    return unlike


def _match_bodies(ours: Sequence[Body], theirs: Sequence[Body], facts: Facts, matching: Matching) -> None:
    cost = np.zeros((len(ours), len(theirs)))
    for i, a in enumerate(ours):
        for j, b in enumerate(theirs):
            if a.blob in facts and b.blob in facts:
                cost[i, j] = signature_distance(facts[a.blob], facts[b.blob])
            cost[i, j] += 0.01 * (a.name != b.name) + 100.0 * (a.kind is not b.kind)
    pairs = _assign(cost)
    for i, j in pairs:
        matching.bodies[ours[i].id] = theirs[j].id
    used = {j for _, j in pairs}
    matching.added_bodies += [b.id for j, b in enumerate(theirs) if j not in used]


def _match_occurrences(
    ours: Product, theirs: Product, origin: Mapping[str, str], matching: Matching
) -> None:
    a, b = ours.occurrences, theirs.occurrences
    cost = np.zeros((len(a), len(b)))
    reach = max((_reach(o) for o in (*a, *b)), default=1.0) or 1.0
    for i, one in enumerate(a):
        for j, other in enumerate(b):
            if origin.get(other.product) != one.product:
                cost[i, j] = _UNALIKE
                continue
            away = np.subtract(one.placement, other.placement, dtype=float)
            away[[3, 7, 11]] /= reach
            cost[i, j] = float(np.abs(away).sum()) + 0.5 * (one.name != other.name)
    used = set()
    for i, j in _assign(cost):
        if cost[i, j] < _UNALIKE:
            matching.occurrences[a[i].id] = b[j].id
            used.add(j)
    matching.added_occurrences += [o.id for j, o in enumerate(b) if j not in used]


def _reach(occurrence: Occurrence) -> float:
    return max(abs(occurrence.placement[i]) for i in (3, 7, 11))
