"""Placed bodies whose distance from all others is many times the size of these together."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gondrel.core.checks.base import Check, Flaw, Scope
from gondrel.core.checks.structure import Structure
from gondrel.core.kernel.derive import facts_of
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]

_FAR = 20.0
"""How many times further than the rest is large something must lie to be called far away; own choice."""


def find(structure: Structure, limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt for each such body."""
    placed = [
        (product, body, np.asarray(place.placement, float).reshape(4, 4))
        for place in structure.model.walk()
        if (product := structure.model.by_id.get(place.product)) is not None and not product.is_reference
        for body in product.bodies
    ]
    if len(placed) < 2:
        return
    boxes = np.array([facts_of(structure.store, body.blob).bbox for _, body, _ in placed]).reshape(-1, 2, 3)
    matrices = np.array([matrix for _, _, matrix in placed])
    middles = (matrices[:, :3, :3] @ boxes.mean(axis=1)[:, :, None])[:, :, 0] + matrices[:, :3, 3]
    sizes = np.linalg.norm(boxes[:, 1] - boxes[:, 0], axis=1)
    centre = np.median(middles, axis=0)
    away = np.linalg.norm(middles - centre, axis=1)
    near = away <= _FAR * max(float(np.median(away)), float(np.median(sizes)))
    named: set[str] = set()
    for place in np.flatnonzero(~near).tolist():
        rest = float((away + sizes / 2)[near].max())
        product, body, _ = placed[place]
        if away[place] - sizes[place] / 2 > _FAR * rest and body.id not in named:
            named.add(body.id)
            x, y, z = (float(v) for v in boxes[place].mean(axis=0))
            text = f"it lies {away[place]:,.4g} mm from the middle; the rest is {2 * rest:,.4g} mm across"
            yield Flaw(
                text, product=product.id, body=body.id, point=(x, y, z), measured=float(away[place]),
                limit=_FAR * rest,
            )  # fmt: skip


CHECK = Check(
    code="A513",
    name="far-away",
    title="Far away from everything else",
    severity=Severity.DOUBT,
    why="The whole is too small to see beside it, and so far out numbers lose their last digits.",
    cure="Move it to where it belongs, or leave it out.",
    source="own",
    scope=Scope.STRUCTURE,
    run=find,
    unit="mm",
)
