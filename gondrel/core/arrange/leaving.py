"""Components that stay here when the model is sent: told on the component, left away from what goes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection
from dataclasses import replace

from gondrel.core.arrange.properties import Edit
from gondrel.core.arrange.structure import without_unused
from gondrel.core.errors import UsageError
from gondrel.core.model.snapshot import Model

__all__ = ["going", "leave_out"]


def leave_out(model: Model, use_ids: Collection[str], *, out: bool = True) -> Edit:
    """Components left out of what is sent, or taken along again; they stay in the model.

    Raises:
        UsageError: when nothing is changed by it, or nothing would be sent.
    """
    wanted = set(use_ids)
    products, count = [], 0
    for product in model.products:
        changed = sum(use.id in wanted and use.left_out != out for use in product.occurrences)
        if changed:
            uses = tuple(
                replace(use, left_out=out) if use.id in wanted else use for use in product.occurrences
            )
            product = replace(product, occurrences=uses)
        count += changed
        products.append(product)
    if not count:
        raise UsageError("nothing is changed by it")
    made = replace(model, products=tuple(products))
    if out:
        going(made)
    whom = "a component" if count == 1 else f"{count} components"
    return (f"Leave {whom} out of what is sent" if out else f"Send {whom} along again"), made


def going(model: Model) -> tuple[Model, tuple[str, ...]]:
    """What of a model is sent, and what stays here, in words.

    Raises:
        UsageError: when nothing is left to send.
    """
    staying = Counter(model.product(use.product).label for _, use in model.occurrences() if use.left_out)
    if not staying:
        return model, ()
    idle = model.by_id.keys() - {place.product for place in model.walk()}
    kept = tuple(
        replace(
            product, occurrences=tuple(use for use in product.occurrences if not use.left_out),
            validation=None,
        )
        if any(use.left_out for use in product.occurrences) else product
        for product in model.products
    )  # fmt: skip
    left = without_unused(replace(model, products=kept), idle)
    if not any(left.product(place.product).bodies for place in left.walk()):
        raise UsageError("every component is left out: nothing would be sent")
    listed = [label if n == 1 else f"{label} ({n} places)" for label, n in sorted(staying.items())]
    more = f" and {len(listed) - 8} more" if len(listed) > 8 else ""
    return left, (f"Left out of what is sent, as chosen: {', '.join(listed[:8])}{more}.",)
