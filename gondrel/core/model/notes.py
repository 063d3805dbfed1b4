"""Notes that can be made once bodies are measured."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from gondrel.core.model.body import BodyFacts
from gondrel.core.model.provenance import Note
from gondrel.core.model.snapshot import Model

__all__ = ["with_measured_notes"]

_NOT_WORTH_TELLING = 1e-4
"""Gaps up to this, mm, come from laying splines through intersections, and matter to nobody."""


def with_measured_notes(model: Model, facts: Mapping[str, BodyFacts]) -> Model:
    """The model with a note for each body whose edges or vertices need a wider tolerance than sent.

    The kernel widens tolerances where curves, vertices and surfaces do not meet; geometry stays
    as it was. That is the one change the raw reading makes, so it is measured and told.
    """
    card = model.provenance.file if model.provenance else None
    claimed = (card.uncertainty or 0.0) if card else 0.0
    allowed = max(claimed, _NOT_WORTH_TELLING) * 1.001
    claim = f"; the file claims {claimed:.1g} mm" if claimed else ""
    notes = [note for note in model.notes if note.code != "tolerance-widened"]
    for product, body in model.bodies():
        found = facts.get(body.blob)
        if found is not None and found.tolerance > allowed:
            text = (
                f"its edges or vertices lie up to {found.tolerance:.3g} mm off{claim}; the tolerance was "
                "widened to match, the geometry was not touched"
            )
            notes.append(Note("tolerance-widened", text, product.label))
    return replace(model, notes=tuple(notes))
