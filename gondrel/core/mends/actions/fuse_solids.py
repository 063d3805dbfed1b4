"""Solids of one part that overlap, made one."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import shape_from_blob, shape_to_blob
from gondrel.core.kernel.repair.disjoin import fuse_solids
from gondrel.core.mends.base import Changed, ModelMend, ModelWork
from gondrel.core.mends.faces import carried_over
from gondrel.core.model.product import IDENTITY

__all__ = ["MEND"]


def run(work: ModelWork) -> Changed:
    """The product with its overlapping solids as one. Raises KernelRefused."""
    product = work.model.product(work.product)
    bodies = {body.id: body for body in product.bodies}
    own = set(bodies)
    into: dict[str, str] = {}
    for finding in work.findings:
        if finding.code not in MEND.cures:
            continue
        if not {finding.body, finding.other} <= own:
            raise KernelRefused("they belong to different parts, and would be one then")
        one, other = (_now(into, b) for b in (finding.body, finding.other))
        if one == other:
            continue
        shapes = [shape_from_blob(work.store.get(bodies[b].blob)) for b in (one, other)]
        ((_, shape),) = fuse_solids(shapes[0], shapes[1], IDENTITY)
        made = replace(bodies[one], blob=work.store.put(shape_to_blob(shape)))
        bodies[one] = carried_over(work.store, (bodies[one], bodies[other]), made, shape)
        del bodies[other]
        into[other] = one
    if not into:
        raise KernelRefused("it is not known what it overlaps with; check again")
    changed = work.model.with_product(replace(product, bodies=tuple(bodies.values())))
    return Changed(changed, f"{len(into) + 1} solids became one")


def _now(into: dict[str, str], body: str) -> str:
    while body in into:
        body = into[body]
    return body


MEND = ModelMend(
    code="R304",
    name="fuse-solids",
    title="Make overlapping solids of a part one",
    what="Solids of one part that share volume become one solid. Solids of different parts are left alone.",
    cures=("A508", "A509"),
    order=140,
    is_asked=True,
    is_single=True,
    run=run,
)
