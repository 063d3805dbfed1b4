"""Notes that can be made once bodies are measured."""

from __future__ import annotations

import math
from collections.abc import Mapping

from gondrel.core.model.body import Body, BodyFacts, BodyKind
from gondrel.core.model.figures import astray, contradicted
from gondrel.core.model.provenance import Note
from gondrel.core.model.snapshot import Model

__all__ = ["GRAVE", "unlike_witness", "with_measured_notes"]

GRAVE = frozenset(
    (
        "body-not-made", "dangling-reference", "product-without-shape", "faces-differ",
        "occurrence-without-place", "file-missing", "file-not-read", "mesh-not-closed", "faces-elsewhere",
        "reading-differs", "placement-differs", "body-not-listed", "item-not-made", "record-twice",
        "reference-wrong", "coordinate-senseless", "loop-torn", "shell-open", "reference-circular",
        "placement-senseless", "record-senseless", "edges-elsewhere", "edges-differ", "unit-senseless",
    )
)  # fmt: skip
"""Codes of notes that say that something is missing or is not what the file meant."""

_NOT_WORTH_TELLING = 1e-4
"""Gaps up to this, mm, come from laying splines through intersections, and matter to nobody."""


_ALIKE = 1e-5
"""Share by which two witnesses' figures of a body may differ whatever its tolerance."""


def unlike_witness(body: Body, facts: BodyFacts) -> str:
    """How a body's area and volume differ from what its file's records say, in words; empty when alike.

    They may differ by what its edges leave open.
    """
    said = body.heard
    if said is None:
        return ""
    size = math.dist(facts.bbox[:3], facts.bbox[3:])
    strip = facts.strip
    reasons = []
    for name, figure, ours, slack, unit in (
        ("area", said.area, facts.area, strip, "mm2"),
        ("volume", said.volume, facts.volume, strip * size, "mm3"),
    ):
        if figure is None or (name == "volume" and body.kind is not BodyKind.SOLID):
            continue
        if abs(figure - ours) > _ALIKE * abs(figure) + slack:
            reasons.append(
                f"its {name} is {figure:.7g} {unit} by the file's records and {ours:.7g} as read"
            )
    return "; ".join(reasons)


def with_measured_notes(model: Model, facts: Mapping[str, BodyFacts]) -> Model:
    """The model with a note for each body whose edges or vertices need a wider tolerance than sent, and
    for each that is not as large as its file's records say.

    The kernel widens tolerances where curves, vertices and surfaces do not meet; geometry stays
    as it was. That is the one change the raw reading makes, so it is measured and told.
    """
    card = model.provenance.file if model.provenance else None
    claimed = (card.uncertainty or 0.0) if card else 0.0
    allowed = max(claimed, _NOT_WORTH_TELLING) * 1.001
    claim = f"; the file claims {claimed:.1g} mm" if claimed else ""
    own = ("tolerance-widened", "reading-differs", "figures-contradict")
    notes = [note for note in model.notes if note.code not in own]
    for identity, texts in contradicted(model, facts).items():
        notes.append(Note("figures-contradict", "; ".join(texts), model.product(identity).label))
    away = astray(model, facts)
    for parent, use in model.occurrences() if away else ():
        if use.id in away:
            notes.append(Note("figures-contradict", away[use.id], f"{parent.label} / {use.name}"))
    for product, body in model.bodies():
        measured = facts.get(body.blob)
        if measured is not None and (differs := unlike_witness(body, measured)):
            notes.append(Note("reading-differs", differs, product.label))
        if measured is not None and measured.tolerance > allowed:
            text = (
                f"its edges or vertices lie up to {measured.tolerance:.3g} mm off{claim}; the tolerance "
                "was widened to match, the geometry was not touched"
            )
            notes.append(Note("tolerance-widened", text, product.label))
    return model.with_notes(tuple(notes))
