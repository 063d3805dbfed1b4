"""The shapes of the command line's objects, and a comparison that tells where one is otherwise.

A dict says which keys there must be at least, a trailing ? which may be missing; a list of one shape is
a list of any length, a tuple is one of its shapes, a set is one of its values.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

__all__ = ["CHECK", "ERROR", "FORECAST", "INSPECT", "MEND", "PROOF", "PROVE", "SEND", "unlike"]

NUMBER = (int, float)
TEXT = str
COUNTS = {"fault": int, "doubt": int, "note": int}
THING = {
    "bodies", "geometry", "units", "structure", "placement", "names", "numbers", "revisions", "colours",
    "layers", "materials", "metadata", "validation", "remainder",
}  # fmt: skip
VERDICT = {"carried", "altered", "lost", "added", "unproved"}

FILE = {
    "path": TEXT, "bytes": int, "format": {"step", "iges", "parasolid", "stl", "obj", "3mf"},
    "variant": TEXT, "schema": TEXT, "length_unit": TEXT, "mm_per_unit": (*NUMBER, None),
    "written_by": {"system": TEXT, "translator": TEXT, "author": TEXT, "organisation": TEXT, "date": TEXT},
}  # fmt: skip
BODY = {
    "name": TEXT, "kind": {"solid", "sheet", "wire", "point", "mesh"}, "faces": int, "edges": int,
    "vertices": int, "volume": NUMBER, "area": NUMBER, "centroid": [NUMBER], "bbox": [NUMBER],
    "colour": (TEXT, None), "coloured_faces": int, "layer": (TEXT, None),
}  # fmt: skip
CENSUS = {
    "census": ({"carried": int, "serving": int, "remainder": int, "all": int}, None),
    "remainder": ([{"kind": TEXT, "type": TEXT, "count": int, "where": [TEXT]}], None),
}  # fmt: skip
INSPECT = {
    **CENSUS,
    "file": FILE,
    "products": [{
        "number": TEXT, "name": TEXT, "revision": TEXT, "description": TEXT, "material": (TEXT, dict, None),
        "metadata": dict, "bodies": [BODY],
        "children": [{"product": int, "name": TEXT, "placement": [NUMBER]}],
    }],
    "roots": [int],
    "totals": {
        "products": int, "occurrences": int, "bodies": int, "solids": int, "sheets": int,
        "placed_solids": int, "placed_volume": NUMBER, "placed_area": NUMBER, "placed_bbox": [NUMBER],
    },
    "missing_files": [TEXT],
    "notes": [{"code": TEXT, "text": TEXT, "where": TEXT}],
}  # fmt: skip
CHECK = {
    "file": FILE,
    "findings": [{
        "code": TEXT, "title": TEXT, "severity": {"fault", "doubt", "note"}, "product": TEXT, "body": TEXT,
        "where": {"face?": int, "edge?": int, "vertex?": int, "point?": [NUMBER]},
        "measure?": {"value": NUMBER, "unit": TEXT, "limit": (*NUMBER, None)}, "mends": [TEXT],
    }],
    "counts": COUNTS, "bodies_clean": int, "bodies_with_findings": int,
}  # fmt: skip
SENT = [{"path": TEXT, "bytes": int}]
FORECAST = [
    {"thing": THING, "fate": {"carried", "altered", "lost"}, "count": int, "why": TEXT, "items": [TEXT]}
]
ITEM = {"path": TEXT, "before": TEXT, "after": TEXT, "verdict": VERDICT, "detail": TEXT}
PROOF = {
    "verdict": {"carried", "altered", "lost"},
    "ledger": [{"thing": THING, "before": TEXT, "after": TEXT, "verdict": VERDICT,
                "announced": (bool, None), "items": [ITEM]}],
    "max_deviation": (*NUMBER, None), "max_volume_error": (*NUMBER, None), "max_shift": (*NUMBER, None),
    "unannounced_losses": int, "false_alarms": int,
}  # fmt: skip
SEND = {"sent": SENT, "forecast": FORECAST, "proof": PROOF, **CENSUS}
PROVE = {**PROOF, **CENSUS}
MEND = {
    "mends": [{"code": TEXT, "product": TEXT, "body": TEXT, "before": dict, "after": dict,
               "outcome": {"mended", "improved", "unchanged", "refused"}, "why": TEXT}],
    "check_before": COUNTS, "check_after": COUNTS, "sent": SENT,
}  # fmt: skip
ERROR = {"error": {"code": TEXT, "message": TEXT, "file": TEXT, "where": TEXT}}


def unlike(shape: Any, value: Any, at: str = "") -> Iterator[str]:
    """Where a value is not of a shape, in words."""
    if isinstance(shape, dict):
        if not isinstance(value, dict):
            yield f"{at}: {value!r} is no object"
            return
        for key, inner in shape.items():
            name = key.removesuffix("?")
            if name in value:
                yield from unlike(inner, value[name], f"{at}.{name}")
            elif name == key:
                yield f"{at}.{name} is missing"
    elif isinstance(shape, list):
        if not isinstance(value, list):
            yield f"{at}: {value!r} is no list"
            return
        for number, each in enumerate(value):
            yield from unlike(shape[0], each, f"{at}[{number}]")
    elif isinstance(shape, tuple):
        if all(any(True for _ in unlike(each, value)) for each in shape):
            yield f"{at}: {value!r}"
    elif isinstance(shape, set):
        if value not in shape:
            yield f"{at}: {value!r} is not one of {sorted(shape)}"
    elif shape is None:
        if value is not None:
            yield f"{at}: {value!r} is not null"
    elif not isinstance(value, shape) or (shape is int and isinstance(value, bool)):
        yield f"{at}: {value!r} is no {shape.__name__}"
