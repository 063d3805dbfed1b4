"""Verdicts on components: their places, names, looks and what is said of them."""

from __future__ import annotations

import numpy as np

from gondrel.core.carriage.added import RETURNED
from gondrel.core.carriage.appearance import compare_faces
from gondrel.core.carriage.aspects import of_use
from gondrel.core.carriage.compare import compare_colour, compare_metadata, compare_text
from gondrel.core.carriage.inventory import Item
from gondrel.core.carriage.ledger import Compared
from gondrel.core.carriage.sides import Sides, compare_said, is_said, lost
from gondrel.core.model.carries import OWN_COLOURS
from gondrel.core.model.figures import ASTRAY, placed_centroid
from gondrel.core.model.product import Occurrence

__all__ = ["compare_use"]


def compare_use(sides: Sides, item: Item) -> Compared:
    """The verdict on an item of a component."""
    theirs_id = sides.matching.occurrences.get(item.subject)
    if theirs_id is None:
        return lost(item, "the component did not come back")
    _, ours = sides.uses[item.subject]
    parent, theirs = sides.uses[RETURNED + theirs_id]
    ids = (theirs.product, parent.id)
    if item.aspect == "component":
        if theirs.product in sides.matching.copies:
            detail = "it came back as a copy, no longer shared"
            return Compared(item, "altered", "copy", detail, 1, ids)
        return Compared(item, "carried", item.text, "", 1, ids)
    if item.aspect == "place":
        return _compare_place(sides, item, ours, theirs, ids)
    if item.thing == "validation":
        return _compare_centroid(sides, item, ours, theirs, ids)
    if item.aspect == "occurrence name":
        return compare_text(item, theirs.name, ids)
    if item.aspect == "occurrence colour":
        return compare_colour(item, ours.colour, theirs.colour, ids)
    if item.aspect.startswith(OWN_COLOURS):
        return _compare_own_colours(sides, item, ours, theirs, ids)
    if is_said(item, of_use(ours)):
        return compare_said(item, of_use(theirs), ids)
    return compare_metadata(item, ours.metadata, theirs.metadata, ids)


def _compare_own_colours(
    sides: Sides, item: Item, ours: Occurrence, theirs: Occurrence, ids: tuple[str, ...]
) -> Compared:
    """Colours of a body and its faces in one place alone."""
    body_id = item.aspect.removeprefix(OWN_COLOURS)
    theirs_id = sides.matching.bodies.get(body_id)
    if theirs_id is None or body_id not in sides.bodies:
        return lost(item, "the body did not come back")
    blobs = sides.bodies[body_id][1].blob, sides.bodies[RETURNED + theirs_id][1].blob
    before = {face: c.label for body, face, c in ours.own_colours if body == body_id}
    after = {face: c.label for body, face, c in theirs.own_colours if body == theirs_id}
    if set(before) == {-1} and set(after) == {-1}:
        return compare_text(item, after[-1], ids)
    return compare_faces(item, blobs, before, after, sides.spots, ids)


def _compare_centroid(
    sides: Sides, item: Item, ours: Occurrence, theirs: Occurrence, ids: tuple[str, ...]
) -> Compared:
    """The centroid of a component in its assembly, against the sender's and against the shape."""
    if theirs.centroid is None or ours.centroid is None:
        return lost(item, "no centroid came back")
    off = float(np.linalg.norm(np.subtract(ours.centroid, theirs.centroid)))
    place = placed_centroid(theirs, sides.totals)
    wrong = 0.0 if place is None else float(np.linalg.norm(np.subtract(place, theirs.centroid)))
    text = "({:.4f}, {:.4f}, {:.4f}) mm".format(*theirs.centroid)
    if off > ASTRAY:
        return Compared(item, "altered", text, f"{off:.4g} mm from the sender's", 1, ids)
    if wrong > ASTRAY:
        return Compared(item, "altered", text, f"{wrong:.4g} mm from the shape's", 1, ids)
    return Compared(item, "carried", text, "", 1, ids)


def _compare_place(
    sides: Sides, item: Item, ours: Occurrence, theirs: Occurrence, ids: tuple[str, ...]
) -> Compared:
    a, b = (np.asarray(o.placement).reshape(4, 4) for o in (ours, theirs))
    shift = float(np.linalg.norm(a[:3, 3] - b[:3, 3]))
    turn = float(np.abs(a[:3, :3] - b[:3, :3]).max())
    sides.shift = max(sides.shift or 0.0, shift)
    reasons = []
    if shift > sides.limits.shift:
        reasons.append(f"moved by {shift:.4g} mm")
    if turn > sides.limits.angle:
        reasons.append(f"turned by about {np.degrees(turn):.3g} degrees")
    text = f"shift {shift:.1g} mm"
    return Compared(item, "altered" if reasons else "carried", text, "; ".join(reasons), 1, ids)
