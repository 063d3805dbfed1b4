"""A drawing and its profile as the contract has them."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any

from gondrel.core.model.flat_sheet import Sheet
from gondrel.core.model.profile import Profile
from gondrel.core.model.relations import Relation, Size

__all__ = ["profile_object"]


def profile_object(
    sheet: Sheet, profile: Profile, relations: Sequence[Relation], sizes: Sequence[Size],
    taken: Mapping[str, int],
) -> dict[str, Any]:  # fmt: skip
    """The object of ``gondrel profile``, lengths in mm, angles in degrees, curves counted from 1.

    Args:
        taken: how many curves were taken, by layer.
    """
    places: dict[str, list[dict[str, Any]]] = {"open": [], "double": [], "crossing": []}
    for amiss in profile.amiss:
        places[amiss.kind].append({"point": list(amiss.point), "curves": [n + 1 for n in amiss.curves]})
    return {
        "version": sheet.version,
        "unit": sheet.unit,
        "unit_proposed": sheet.is_proposed,
        "layout": sheet.name,
        "layouts": list(sheet.layouts),
        "layers": [
            {
                "name": layer.name,
                "entities": layer.entities,
                "taken": bool(taken.get(layer.name)),
                "shown": layer.is_shown,
                "colour": layer.colour,
                "line_type": layer.line_type,
            }
            for layer in sheet.layers
        ],
        "kinds": dict(sorted(Counter(curve.kind for curve in sheet.curves).items())),
        "texts": [
            {"kind": t.kind, "text": t.text, "value": t.value, "layer": t.layer} for t in sheet.texts
        ],
        "regions": [
            {"area": r.area, "perimeter": r.perimeter, "holes": len(r.holes)} for r in profile.regions
        ],
        "joined": {"within": profile.within, "widest_gap": profile.widest},
        "open_ends": places["open"],
        "doubles": places["double"],
        "crossings": places["crossing"],
        "relations": dict(Counter(relation.kind for relation in relations)),
        "sizes": [
            {
                "name": size.name,
                "kind": size.kind,
                "curves": [n + 1 for n in size.curves],
                "value": math.degrees(size.value) if size.kind == "angle" else size.value,
            }
            for size in sizes
        ],
        "notes": [{"code": note.code, "text": note.text} for note in sheet.notes],
    }
