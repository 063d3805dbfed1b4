"""Aspects of components: their places, names, looks and what is said of them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gondrel.core.carriage.appearance import compare_faces
from gondrel.core.carriage.aspects.base import (
    Aspect,
    Pair,
    Statement,
    Subject,
    gains_nothing,
    in_words,
    text_of,
)
from gondrel.core.carriage.aspects.shared import hidden_of, metadata_of, particulars_of
from gondrel.core.carriage.compare import compare_colour, compare_text, lost
from gondrel.core.carriage.items import RETURNED
from gondrel.core.carriage.ledger import Compared
from gondrel.core.model.carries import OWN_COLOURS
from gondrel.core.model.figures import ASTRAY, placed_centroid
from gondrel.core.model.product import Occurrence
from gondrel.core.model.verdicts import Verdict

__all__ = ["OF_OCCURRENCE"]

_MOST_TEXTS = 5


def _component(subject: Subject[Occurrence]) -> Iterator[Statement]:
    child = subject.model.by_id.get(subject.it.product)
    yield Statement("component", child.label if child else "?")


def _compare_component(pair: Pair[Occurrence]) -> Compared:
    if pair.theirs.product in pair.sides.matching.copies:
        detail = "it came back as a copy, no longer shared"
        return Compared(pair.item, Verdict.ALTERED, "copy", detail, 1, pair.ids)
    return Compared(pair.item, Verdict.CARRIED, pair.item.text, "", 1, pair.ids)


def _place(subject: Subject[Occurrence]) -> Iterator[Statement]:
    yield Statement("place", "placed")


def _compare_place(pair: Pair[Occurrence]) -> Compared:
    sides = pair.sides
    a, b = (np.asarray(o.placement).reshape(4, 4) for o in (pair.ours, pair.theirs))
    shift = float(np.linalg.norm(a[:3, 3] - b[:3, 3]))
    turn = float(np.abs(a[:3, :3] - b[:3, :3]).max())
    sides.shift = max(sides.shift or 0.0, shift)
    reasons = []
    if shift > sides.limits.shift:
        reasons.append(f"moved by {shift:.4g} mm")
    if turn > sides.limits.angle:
        reasons.append(f"turned by about {np.degrees(turn):.3g} degrees")
    verdict = Verdict.ALTERED if reasons else Verdict.CARRIED
    return Compared(pair.item, verdict, f"shift {shift:.1g} mm", "; ".join(reasons), 1, pair.ids)


def _colour(subject: Subject[Occurrence]) -> Iterator[Statement]:
    if subject.it.colour is not None:
        yield Statement("occurrence colour", subject.it.colour.label)


def _compare_colour(pair: Pair[Occurrence]) -> Compared:
    return compare_colour(pair.item, pair.ours.colour, pair.theirs.colour, pair.ids)


def _own_colours(subject: Subject[Occurrence]) -> Iterator[Statement]:
    own_colours = subject.it.own_colours
    for body_id in dict.fromkeys(body for body, _, _ in own_colours):
        own = [colour.label for body, _, colour in own_colours if body == body_id]
        text = f"{', '.join(sorted(set(own))[:_MOST_TEXTS])} in this place alone"
        yield Statement(OWN_COLOURS + body_id, text, len(own))


def _compare_own_colours(pair: Pair[Occurrence]) -> Compared:
    """Colours of a body and its faces in one place alone."""
    sides, item = pair.sides, pair.item
    body_id = item.aspect.removeprefix(OWN_COLOURS)
    theirs_id = sides.matching.bodies.get(body_id)
    if theirs_id is None or body_id not in sides.bodies:
        return lost(item, "the body did not come back")
    blobs = sides.bodies[body_id][1].blob, sides.bodies[RETURNED + theirs_id][1].blob
    before = {face: c.label for body, face, c in pair.ours.own_colours if body == body_id}
    after = {face: c.label for body, face, c in pair.theirs.own_colours if body == theirs_id}
    if set(before) == {-1} and set(after) == {-1}:
        return compare_text(item, after[-1], pair.ids)
    return compare_faces(item, blobs, before, after, sides.spots, pair.ids)


def _gained_own_colours(ours: Subject[Occurrence], theirs: Subject[Occurrence]) -> Iterator[Statement]:
    if theirs.it.own_colours and not ours.it.own_colours:
        yield Statement("colours in this place", f"{len(theirs.it.own_colours)} faces and bodies")


def _centroid(subject: Subject[Occurrence]) -> Iterator[Statement]:
    if subject.it.centroid is not None:
        yield Statement("centroid", "centroid in its assembly")


def _compare_centroid(pair: Pair[Occurrence]) -> Compared:
    """The centroid of a component in its assembly, against the sender's and against the shape."""
    item, ours, theirs = pair.item, pair.ours, pair.theirs
    if theirs.centroid is None or ours.centroid is None:
        return lost(item, "no centroid came back")
    off = float(np.linalg.norm(np.subtract(ours.centroid, theirs.centroid)))
    place = placed_centroid(theirs, pair.sides.totals)
    wrong = 0.0 if place is None else float(np.linalg.norm(np.subtract(place, theirs.centroid)))
    text = "({:.4f}, {:.4f}, {:.4f}) mm".format(*theirs.centroid)
    if off > ASTRAY:
        return Compared(item, Verdict.ALTERED, text, f"{off:.4g} mm from the sender's", 1, pair.ids)
    if wrong > ASTRAY:
        return Compared(item, Verdict.ALTERED, text, f"{wrong:.4g} mm from the shape's", 1, pair.ids)
    return Compared(item, Verdict.CARRIED, text, "", 1, pair.ids)


def _layers(subject: Subject[Occurrence]) -> Iterator[Statement]:
    for layer in subject.it.layers:
        yield Statement(f"on layer {layer}", layer)


OF_OCCURRENCE: tuple[Aspect[Occurrence], ...] = (
    Aspect("structure", _component, _compare_component, gains_nothing),
    Aspect("placement", _place, _compare_place, gains_nothing),
    text_of("names", "occurrence name", lambda use: use.name),
    Aspect("colours", _colour, _compare_colour),
    Aspect("colours", _own_colours, _compare_own_colours, _gained_own_colours),
    Aspect("validation", _centroid, _compare_centroid, gains_nothing),
    metadata_of(lambda use: use.metadata, of_component=True),
    particulars_of(lambda use: use.particulars),
    Aspect("layers", lambda subject: in_words(_layers(subject))),
    hidden_of(lambda use: use.hidden),
)
