"""The least distance between sets of placed bodies, and the pairs that come too close."""

from __future__ import annotations

import heapq
from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import UsageError
from gondrel.core.kernel.base.shape import Shape, located, shape_from_blob
from gondrel.core.kernel.measure.between import near_within, nearest
from gondrel.core.measuring.placed import BodyInPlace
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.boxes import box_in_place
from gondrel.core.model.facets import is_facets
from gondrel.core.model.geometry import vector_of
from gondrel.core.model.measures import Clearance
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["closer_than", "least_clearance"]

Floats = NDArray[np.float64]


class _Shapes:
    """Bodies in their places, each taken out of the store once."""

    def __init__(self, store: BlobStore) -> None:
        self.store = store
        self.shapes: dict[str, Shape] = {}

    def placed(self, each: BodyInPlace) -> Shape:
        key = each.body.blob
        if key not in self.shapes:
            blob = self.store.get(key)
            if is_facets(blob):
                raise UsageError(
                    f"distances from {each.product.label} are not measured: it is a mesh",
                    hint="mend it to a solid first",
                )
            self.shapes[key] = shape_from_blob(blob)
        return located(self.shapes[key], each.placement)


def least_clearance(
    ones: Sequence[BodyInPlace], others: Sequence[BodyInPlace], store: BlobStore,
    facts: Mapping[str, BodyFacts], *, progress: Progress = SILENT,
) -> Clearance:  # fmt: skip
    """The least distance between bodies of two sets; a body is not measured against itself.

    Pairs are taken by the distance of their boxes, until no box comes nearer than what was found.

    Raises:
        UsageError: when one set is empty, both are the same single body, or a mesh is among them.
        KernelRefused: when the kernel fails over a pair.
    """
    if not ones or not others:
        raise UsageError("there is no body to measure the clearance of")
    shapes = _Shapes(store)
    best: Clearance | None = None
    for gap, i, j in _by_boxes(ones, others, facts):
        if best is not None and gap >= best.distance:
            break
        progress.at(0.0, f"Measuring {ones[i].product.label} and {others[j].product.label}")
        one, other = ones[i], others[j]
        points = nearest(shapes.placed(one), shapes.placed(other))
        distance = float(np.linalg.norm(points[1] - points[0]))
        if best is None or distance < best.distance:
            items = ((one.product.id, one.path), (other.product.id, other.path))
            best = Clearance(distance, (vector_of(points[0]), vector_of(points[1])), items)
        if best.distance == 0.0:
            break
    if best is None:
        raise UsageError("there is only one body: it has no clearance from itself")
    return best


def closer_than(
    bodies: Sequence[BodyInPlace], limit: float, store: BlobStore, facts: Mapping[str, BodyFacts], *,
    progress: Progress = SILENT,
) -> list[Clearance]:  # fmt: skip
    """All pairs of bodies that come closer than a limit, mm, or touch; nearest first.

    Raises:
        UsageError, KernelRefused: as least_clearance.
    """
    shapes, found = _Shapes(store), []
    near = [(i, j) for gap, i, j in _by_boxes(bodies, bodies, facts) if gap < limit and i < j]
    for i, j in progress.each(near, "Measuring clearances"):
        one, other = bodies[i], bodies[j]
        points = near_within(shapes.placed(one), shapes.placed(other), limit)
        if points is None:
            continue
        distance = float(np.linalg.norm(points[1] - points[0]))
        if distance < limit:
            items = ((one.product.id, one.path), (other.product.id, other.path))
            found.append(Clearance(distance, (vector_of(points[0]), vector_of(points[1])), items))
    return sorted(found, key=lambda c: c.distance)


def _by_boxes(
    ones: Sequence[BodyInPlace], others: Sequence[BodyInPlace], facts: Mapping[str, BodyFacts]
) -> list[tuple[float, int, int]]:
    """Pairs of bodies by the distance of their boxes, mm, nearest first."""
    here = np.stack([box_in_place(facts[b.body.blob], b.placement) for b in ones])
    there = np.stack([box_in_place(facts[b.body.blob], b.placement) for b in others])
    pairs: list[tuple[float, int, int]] = []
    for i, (low, high) in enumerate(here):
        gaps = np.maximum(np.maximum(there[:, 0] - high, low - there[:, 1]), 0.0)
        distances = np.linalg.norm(gaps, axis=1)
        pairs += [
            (float(distance), i, j)
            for j, distance in enumerate(distances)
            if (ones[i].path, ones[i].body.id) != (others[j].path, others[j].body.id)
        ]
    heapq.heapify(pairs)
    return [heapq.heappop(pairs) for _ in range(len(pairs))]
