"""Curves and points beside solids."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.errors import KernelRefused
from gondrel.core.mends.base import Changed, ModelMend, ModelWork
from gondrel.core.model.body import BodyKind

__all__ = ["MEND"]

_LOOSE = (BodyKind.WIRE, BodyKind.POINT)


def run(work: ModelWork) -> Changed:
    """The product without bodies of only curves or points. Raises KernelRefused."""
    product = work.model.product(work.product)
    kept = tuple(body for body in product.bodies if body.kind not in _LOOSE)
    gone = len(product.bodies) - len(kept)
    if not gone or not kept:
        raise KernelRefused("there is nothing beside a solid or sheet to drop")
    changed = work.model.with_product(replace(product, bodies=kept))
    return Changed(changed, f"{gone} of only curves or points dropped")


MEND = ModelMend(
    code="R301",
    name="drop-loose-curves",
    title="Drop curves and points beside solids",
    what="Bodies of only curves or points go from parts that have solids or sheets, which stay.",
    cures=("A507",),
    order=110,
    run=run,
)
