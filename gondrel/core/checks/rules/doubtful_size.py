"""Sizes that are usual ones only at another scale."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.kernel.derive import detail_of, facts_of
from gondrel.core.model.doubts import size_doubt, size_factor
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """At most one doubt: seen first on the figures of the file, then on the bodies as they are now, so that
    it is gone when they were rescaled."""
    model, store = structure.model, structure.store
    card = model.provenance.file if model.provenance is not None else None
    names = [Path(card.path).stem if card is not None else ""]
    names += [text for p in model.products for text in (p.name, p.number)]
    if card is None or not size_doubt(card.diameters, card.extent, card.length_unit, names):
        return
    details = [detail_of(store, blob) for blob in model.blobs()]
    diameters = {
        sizes[0]
        for detail in details
        for kind, sizes in zip(detail.face_kinds, detail.face_sizes, strict=True)
        if kind == "cylinder"
    }
    boxes = np.array([facts_of(store, blob).bbox for blob in model.blobs()]).reshape(-1, 2, 3)
    extent = float(np.ptp(boxes.reshape(-1, 3), axis=0).max()) if len(boxes) else 0.0
    suspected = size_factor(sorted(diameters), extent, card.length_unit)
    if suspected is not None:
        factor, text = suspected
        yield Flaw(text, measured=factor, limit=1.0)


CHECK = Check(
    code="A512",
    name="doubtful-size",
    title="Unit or scale doubtful",
    severity=Severity.DOUBT,
    why="A unit taken for another makes every size wrong by one factor, and nothing else shows it.",
    cure="Ask the sender for one size, then rescale or receive again in the right unit.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
)
