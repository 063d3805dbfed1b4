"""Bodies smaller than what is told apart."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.errors import KernelRefused
from gondrel.core.mends.base import Changed, ModelMend, ModelWork

__all__ = ["MEND"]


def run(work: ModelWork) -> Changed:
    """The product without its tiny bodies. Raises KernelRefused when it has no others."""
    product = work.model.product(work.product)
    tiny = {f.body for f in work.findings if f.code == "G304"}
    kept = tuple(b for b in product.bodies if b.id not in tiny)
    if not kept:
        raise KernelRefused("nothing else is in this part; look at its unit first")
    return Changed(
        work.model.with_product(replace(product, bodies=kept)),
        f"{len(product.bodies) - len(kept)} too small to tell apart dropped",
    )


MEND = ModelMend(
    code="R306",
    name="drop-crumbs",
    title="Drop bodies smaller than the tolerance",
    what="Bodies no larger than the shortest edge allowed go from parts that have others.",
    cures=("G304",),
    order=105,
    is_single=True,
    run=run,
)
