"""Solids that run into one another: bounding boxes first, then the common volume."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import Enum

import numpy as np

from gondrel.core.checks.base import Flaw
from gondrel.core.errors import GondrelError
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.measure.overlap import Overlap, box_in_place, common_volume
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.product import Placement
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["Shared", "Sharing", "find_shared", "overlap_flaws"]

_LEAST = 1e-3
"""Common volume below which nothing is told, mm3."""

_WHOLE = 1e-6
"""Share of a volume that may be missing from what is still called the whole of it."""

_TOUCH = 1e-3
"""How far boxes must reach into one another, mm."""


@dataclass(frozen=True, slots=True)
class PlacedSolid:
    """A solid in one of its places."""

    product: str
    label: str
    body: Body
    placement: Placement


class Sharing(Enum):
    """How two solids share volume: a part of both, the whole of the smaller, or the whole of both."""

    PART = "part"
    WHOLE = "whole"
    SAME = "same"


@dataclass(frozen=True, slots=True)
class Shared:
    """Two placed solids that share volume.

    Args:
        at: a point in both, in the frame of the first, mm; volume: what they share, mm3; relative: the
            frame of the second in that of the first.
    """

    one: PlacedSolid
    other: PlacedSolid
    sharing: Sharing
    volume: float
    at: tuple[float, float, float]
    relative: Placement


def find_shared(model: Model, store: BlobStore, *, progress: Progress = SILENT) -> Iterator[Shared]:
    """Each pair of placed solids that share volume.

    Pairs of the same two bodies in the same place to one another are worked out once.
    """
    placed = [
        PlacedSolid(p.product, model.product(p.product).label, body, p.placement)
        for p in model.walk()
        if p.product in model.by_id
        for body in model.product(p.product).bodies
        if body.kind is BodyKind.SOLID
    ]
    shapes = {b: shape_from_blob(store.get(b)) for b in {p.body.blob for p in placed}}
    boxes = np.array([box_in_place(shapes[p.body.blob], p.placement) for p in placed]).reshape(-1, 6)
    pairs = list(_near(boxes))
    for a, b in progress.each(pairs, "Looking for overlaps"):
        one, other = placed[a], placed[b]
        shared = _shared(store, shapes, one, other)
        if shared is not None and shared.volume > _LEAST:
            sharing = _sharing(shared.volume, *(facts_of(store, p.body.blob).volume for p in (one, other)))
            yield Shared(one, other, sharing, shared.volume, shared.at, _relative(one, other))


def overlap_flaws(pairs: Iterable[Shared], sharing: Sharing) -> Iterator[Flaw]:
    """What is told of the pairs that share volume in one way."""
    for pair in pairs:
        if pair.sharing is sharing:
            yield Flaw(
                f"{_in_words(pair.one, pair.other)} share {pair.volume:,.4g} mm\u00b3", point=pair.at,
                measured=pair.volume, limit=_LEAST, product=pair.one.product, body=pair.one.body.id,
                other=pair.other.body.id, relative=pair.relative,
            )  # fmt: skip


def _in_words(one: PlacedSolid, other: PlacedSolid) -> str:
    """Both solids in words; two of one part by their own names."""
    if one.product == other.product and one.body.id != other.body.id:
        return f"{one.body.name or 'a body'} and {other.body.name or 'another'}"
    return f"it and {other.label}"


def _sharing(shared: float, one: float, other: float) -> Sharing:
    if shared < min(one, other) * (1 - _WHOLE):
        return Sharing.PART
    return Sharing.SAME if abs(one - other) <= _WHOLE * max(one, other) else Sharing.WHOLE


def _near(boxes: np.ndarray) -> Iterator[tuple[int, int]]:  # type: ignore[type-arg]
    """Pairs of boxes that reach into one another, swept along one axis."""
    if not len(boxes):
        return
    order = np.argsort(boxes[:, 0])
    for place, first in enumerate(order):
        later = order[place + 1 :]
        later = later[boxes[later, 0] < boxes[first, 3] - _TOUCH]
        inside = np.ones(len(later), bool)
        for axis in (1, 2):
            inside &= boxes[later, axis] < boxes[first, axis + 3] - _TOUCH
            inside &= boxes[first, axis] < boxes[later, axis + 3] - _TOUCH
        for second in later[inside]:
            yield int(min(first, second)), int(max(first, second))


def _shared(
    store: BlobStore, shapes: dict[str, object], one: PlacedSolid, other: PlacedSolid
) -> Overlap | None:
    """What two placed solids share, in the frame of the first; None when it can't be worked out."""
    relative = _relative(one, other)
    rounded = ",".join(f"{v:.6f}" for v in np.round(relative[:12], 6) + 0.0)
    key = f"overlap-{other.body.blob[:24]}-{hashlib.sha1(rounded.encode()).hexdigest()[:16]}"
    if store.has(one.body.blob, key):
        volume, at = json.loads(store.get_as(one.body.blob, key))
        return Overlap(volume, tuple(at))
    try:
        common = common_volume(shapes[one.body.blob], shapes[other.body.blob], relative)
    except GondrelError:
        return None
    store.put_as(one.body.blob, key, json.dumps([common.volume, common.at]).encode())
    return common


def _relative(one: PlacedSolid, other: PlacedSolid) -> Placement:
    """The frame of the second in that of the first."""
    a, b = (np.asarray(p.placement, float).reshape(4, 4) for p in (one, other))
    return tuple(float(v) for v in (np.linalg.inv(a) @ b).ravel())
