"""Edits of components: what is said of a product in one of its places. The product stays as it is."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

from gondrel.core.arrange.properties import Edit, datum_of, with_datum
from gondrel.core.errors import UsageError
from gondrel.core.model.body import Rgba
from gondrel.core.model.product import Occurrence, Value
from gondrel.core.model.snapshot import Model

__all__ = [
    "set_component_colour",
    "set_component_datum",
    "set_component_name",
    "without_component_datum",
]


def set_component_name(model: Model, ids: Iterable[str], name: str) -> Edit:
    """Name components, which are given by the ids of their occurrences.

    Raises:
        UsageError: when none of them is in the model.
    """
    cleaned = name.strip()
    changed, whom = _changed(model, ids, lambda use: replace(use, name=cleaned))
    return f"Set name of {whom} to {cleaned or 'nothing'}", changed


def set_component_colour(model: Model, ids: Iterable[str], colour: Rgba | None) -> Edit:
    """Give components a colour in their places; None for that of their parts.

    Raises:
        UsageError: when none of them is in the model.
    """
    changed, whom = _changed(model, ids, lambda use: replace(use, colour=colour))
    return f"Set colour of {whom} to {colour.label if colour is not None else 'that of the part'}", changed


def set_component_datum(model: Model, ids: Iterable[str], key: str, value: Value) -> Edit:
    """Give components a property of their own, replacing the first of the same key.

    Raises:
        UsageError: when the key is empty or none of them is in the model.
    """
    datum = datum_of(key, value)
    changed, whom = _changed(model, ids, lambda use: replace(use, metadata=with_datum(use.metadata, datum)))
    return f"Set {datum.key} of {whom} to {value}", changed


def without_component_datum(model: Model, ids: Iterable[str], key: str) -> Edit:
    """Take a property away from components. Raises UsageError when none of them is in the model."""
    changed, whom = _changed(
        model, ids, lambda use: replace(use, metadata=tuple(m for m in use.metadata if m.key != key))
    )
    return f"Remove {key} of {whom}", changed


def _changed(
    model: Model, ids: Iterable[str], change: Callable[[Occurrence], Occurrence]
) -> tuple[Model, str]:
    """The model with components changed, and what they are called in the history."""
    wanted = set(ids)
    uses = [use for _, use in model.occurrences() if use.id in wanted]
    if not uses:
        raise UsageError("no component is selected to change")
    products = tuple(
        replace(p, occurrences=tuple(change(u) if u.id in wanted else u for u in p.occurrences))
        if any(u.id in wanted for u in p.occurrences)
        else p
        for p in model.products
    )
    first = uses[0]
    whom = f"component {first.name or model.product(first.product).label}"
    return replace(model, products=products), whom if len(uses) == 1 else f"{len(uses)} components"
