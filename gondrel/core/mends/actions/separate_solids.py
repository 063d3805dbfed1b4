"""Solids that overlap: the smaller taken out of the larger."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import shape_from_blob, shape_to_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.repair.disjoin import take_out
from gondrel.core.mends.base import Changed, ModelMend, ModelWork
from gondrel.core.mends.faces import carried_over
from gondrel.core.model.body import Body
from gondrel.core.model.findings import Finding
from gondrel.core.model.snapshot import Model

__all__ = ["MEND"]


def run(work: ModelWork) -> Changed:
    """The model with the larger solid of each such pair cut. Raises KernelRefused."""
    model, cut = work.model, 0.0
    names: dict[str, None] = {}
    for finding in work.findings:
        if finding.code == "A508" and finding.relative is not None:
            model, name = _cut(model, work, finding)
            names[name] = None
            cut += finding.measured or 0.0
    if model is work.model:
        raise KernelRefused("it is not known what it overlaps with; check again")
    return Changed(model, f"{cut:,.4g} mm\u00b3 were taken out of {', '.join(names)}")


def _cut(model: Model, work: ModelWork, finding: Finding) -> tuple[Model, str]:
    """The model with the larger of two solids cut, and whose that is."""
    assert finding.relative is not None
    placed = {body.id: (product, body) for product, body in model.bodies()}
    one, other = placed[finding.body], placed[finding.other]
    to_other = finding.relative
    if facts_of(work.store, one[1].blob).volume < facts_of(work.store, other[1].blob).volume:
        inverse = np.linalg.inv(np.asarray(to_other, float).reshape(4, 4))
        one, other, to_other = other, one, tuple(float(v) for v in inverse.ravel())
    product, body = one
    uses = model.quantities[product.id]
    if uses > 1:
        raise KernelRefused(f"{product.label} is used {uses} times and would be cut in all its places")
    shapes = [shape_from_blob(work.store.get(b.blob)) for b in (body, other[1])]
    ((_, shape),) = take_out(shapes[0], shapes[1], to_other)
    made: Body = replace(body, blob=work.store.put(shape_to_blob(shape)))
    made = carried_over(work.store, (body,), made, shape)
    bodies = tuple(made if b.id == body.id else b for b in product.bodies)
    name = body.name if len(product.bodies) > 1 and body.name else product.label
    return model.with_product(replace(product, bodies=bodies)), name


MEND = ModelMend(
    code="R303",
    name="separate-solids",
    title="Take the smaller solid out of the larger",
    what="Where two solids overlap, the larger gives way. A part used more than once is left alone.",
    cures=("A508",),
    order=130,
    is_asked=True,
    is_single=True,
    run=run,
)
