"""A drawing and its profile in words."""

from __future__ import annotations

import math
from collections import Counter

from gondrel.core.model.looked import LookedAt
from gondrel.core.model.relations import Freedom, Relation, Size
from gondrel.core.reports.figures import Figures, count_of

__all__ = ["freedom_text", "head_text", "relation_text", "size_text", "spot_text"]


def head_text(looked: LookedAt) -> str:
    """What the drawing is: version, unit and whether that is proposed, what is in it."""
    sheet = looked.sheet
    unit = f"{sheet.unit}, proposed: the file says none" if sheet.is_proposed else sheet.unit
    counts = Counter(curve.kind for curve in sheet.curves)
    kinds = ", ".join(f"{number} {kind.lower()}" for kind, number in counts.most_common(4))
    return f"DXF {sheet.version} \u00b7 {unit} \u00b7 {kinds or 'no curves'}"


def size_text(size: Size, show: Figures) -> str:
    """A size as people read it."""
    return f"{math.degrees(size.value):.6g}\u00b0" if size.kind == "angle" else show.length(size.value)


def relation_text(relation: Relation) -> str:
    """What holds between which curves, counted from 1."""
    return f"{relation.kind} {' and '.join(str(number + 1) for number in relation.curves)}"


def freedom_text(freedom: Freedom) -> str:
    """How far a profile is held by its relations and the sizes that were given."""
    if freedom.degrees == 0:
        text = "fully held"
    else:
        curves = ", ".join(str(number + 1) for number in freedom.free[:6])
        more = " \u2026" if len(freedom.free) > 6 else ""
        text = f"{freedom.degrees} sizes are still free, of curves {curves}{more}"
    if freedom.too_much:
        text += f"; {count_of(freedom.too_much, 'condition')} say what others say"
    return text


def spot_text(kind: str, x: float, y: float) -> str:
    """A place that is amiss."""
    word = {"open": "open end", "double": "drawn twice", "crossing": "crosses"}[kind]
    return f"{word} at {x:.5g}, {y:.5g} mm"
