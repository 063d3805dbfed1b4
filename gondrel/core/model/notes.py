"""Notes that can be made once bodies are measured."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from gondrel.core.model.body import BodyFacts
from gondrel.core.model.provenance import Note
from gondrel.core.model.snapshot import Model

__all__ = ["with_measured_notes"]

_KERNEL_TOLERANCE = 1e-7


def with_measured_notes(model: Model, facts: Mapping[str, BodyFacts]) -> Model:
    """The model with a note for each body whose edges or vertices need a wider tolerance than sent.

    The kernel widens tolerances where curves, vertices and surfaces do not meet; geometry stays
    as it was. That is the one change the raw reading makes, so it is measured and told.
    """
    card = model.provenance.file if model.provenance else None
    allowed = max(card.uncertainty or 0.0 if card else 0.0, _KERNEL_TOLERANCE) * 1.001
    notes = [note for note in model.notes if note.code != "tolerance-widened"]
    for product, body in model.bodies():
        found = facts.get(body.blob)
        if found is not None and found.tolerance > allowed:
            text = (
                f"its edges or vertices lie up to {found.tolerance:.3g} mm off; the file claims "
                f"{allowed:.1g} mm; the tolerance was widened to match, the geometry was not touched"
            )
            notes.append(Note("tolerance-widened", text, product.label))
    return replace(model, notes=tuple(notes))
