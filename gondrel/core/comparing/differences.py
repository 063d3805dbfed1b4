"""Material and places of two models, as they were matched for the proof."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from gondrel.core.carriage.matching import Matching
from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import shape_from_blob, shape_to_blob, split_bodies
from gondrel.core.kernel.measure.difference import Excess, material_beyond
from gondrel.core.model.body import Body, BodyFacts, BodyKind
from gondrel.core.model.differences import Differences, MaterialChange, Moved
from gondrel.core.model.facets import is_facets
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["differences_of"]

_STILL, _UNTURNED = 1e-6, 1e-9


def differences_of(
    before: Model, after: Model, matching: Matching, facts: Mapping[str, BodyFacts], store: BlobStore, *,
    progress: Progress = SILENT,
) -> Differences:  # fmt: skip
    """What differs between two matched models.

    Args:
        facts: measures of the bodies of both, by hash.
    """
    refused: list[str] = []
    changes = list(_materials(before, after, matching, facts, store, refused, progress))
    return Differences(
        tuple(changes), tuple(_moved(before, after, matching)), tuple(dict.fromkeys(refused))
    )


def _materials(
    before: Model, after: Model, matching: Matching, facts: Mapping[str, BodyFacts], store: BlobStore,
    refused: list[str], progress: Progress,
) -> Iterator[MaterialChange]:  # fmt: skip
    theirs = {body.id: (product, body) for product, body in after.bodies()}
    came = set(matching.bodies.values())
    new: defaultdict[str, list[Body]] = defaultdict(list)
    for product, body in after.bodies():
        if body.id not in came:
            new[product.id].append(body)
    products = [p for p in before.products if p.bodies]
    for product in progress.each(products, "Comparing material"):
        other_id = matching.products.get(product.id, "")
        pairs = [
            (body, theirs[matching.bodies[body.id]][1])
            for body in product.bodies
            if body.id in matching.bodies
        ]
        gone = [body for body in product.bodies if body.id not in matching.bodies]
        changed = [(a, b) for a, b in pairs if a.blob != b.blob]
        fresh = new.pop(other_id, [])
        if not (changed or gone or fresh):
            continue
        try:
            yield from _change(product, other_id, changed, gone, fresh, before, facts, store)
        except KernelRefused:
            refused.append(product.label)
    for other_id, bodies in new.items():
        product = after.product(other_id)
        yield MaterialChange(
            product.label, "", other_id, tuple(b.blob for b in bodies), (),
            sum(facts[b.blob].volume for b in bodies), 0.0, after.quantities[other_id],
        )  # fmt: skip


def _change(
    product: Product, other_id: str, pairs: Sequence[tuple[Body, Body]], gone: Sequence[Body],
    fresh: Sequence[Body], before: Model, facts: Mapping[str, BodyFacts], store: BlobStore,
) -> Iterator[MaterialChange]:  # fmt: skip
    added = [body.blob for body in fresh]
    removed = [body.blob for body in gone]
    more = sum(facts[key].volume for key in added)
    less = sum(facts[key].volume for key in removed)
    for one, other in pairs:
        if one.kind is not BodyKind.SOLID or other.kind is not BodyKind.SOLID:
            raise KernelRefused("only solids have material to compare")
        blobs = store.get(one.blob), store.get(other.blob)
        if any(is_facets(blob) for blob in blobs):
            raise KernelRefused("a mesh has no exact material to compare")
        here, there = (shape_from_blob(blob) for blob in blobs)
        beyond, short = material_beyond(there, here), material_beyond(here, there)
        added += _kept(beyond, store)
        removed += _kept(short, store)
        more, less = more + beyond.volume, less + short.volume
    if added or removed:
        yield MaterialChange(
            product.label, product.id, other_id, tuple(added), tuple(removed), more, less,
            before.quantities[product.id],
        )  # fmt: skip


def _kept(material: Excess, store: BlobStore) -> list[str]:
    if material.shape is None:
        return []
    return [store.put(shape_to_blob(shape)) for _, shape in split_bodies(material.shape)]


def _moved(before: Model, after: Model, matching: Matching) -> Iterator[Moved]:
    theirs = {use.id: use for _, use in after.occurrences()}
    for _, use in before.occurrences():
        other = theirs.get(matching.occurrences.get(use.id, ""))
        if other is None:
            continue
        a, b = (np.asarray(each.placement, float).reshape(4, 4) for each in (use, other))
        distance = float(np.linalg.norm(b[:3, 3] - a[:3, 3]))
        angle = _turned(a[:3, :3], b[:3, :3])
        if distance > _STILL or angle > _UNTURNED:
            label = use.name or before.product(use.product).label
            yield Moved(label, use.id, other.id, distance, angle)


def _turned(one: np.ndarray, other: np.ndarray) -> float:
    """The angle of the rotation between two frames, rad.

    Source: of a rotation matrix R, |R - 1| (Frobenius) is 2 sqrt(2) sin(angle / 2); exact near 0 as well.
    """
    turn = np.linalg.inv(one) @ other
    share = float(np.linalg.norm(turn - np.eye(3))) / (2 * math.sqrt(2))
    return 2 * math.asin(min(share, 1.0))
