"""The second witness: what the file's own records count against what the kernel's reading made."""

from __future__ import annotations

from gondrel.core.model.body import BodyKind
from gondrel.core.model.snapshot import Model

__all__ = ["compare_witnesses"]


def compare_witnesses(model: Model) -> tuple[tuple[str, ...], bool]:
    """Lines that set the two counts side by side, and whether they agree.

    The model must have been read from a file; without one there is no second witness.
    """
    if model.provenance is None:
        return ("no file to count records in",), False
    card = model.provenance.file
    counted = dict(card.counts)
    made = {
        "products": len(model.products),
        "occurrences": sum(1 for _ in model.occurrences()),
        "solids": sum(body.kind is BodyKind.SOLID for _, body in model.bodies()),
    }
    lines, agree = [], True
    for thing, count in made.items():
        if thing not in counted:
            continue  # not to be told from records: surfaces that close when they are joined, say
        held = card.count(thing)
        same = held == count
        agree &= same
        mark = "agree" if same else "DIFFER"
        lines.append(f"{thing}: {held} in the file's records, {count} read by the kernel: {mark}")
    return tuple(lines), agree
