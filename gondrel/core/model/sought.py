"""What a record is sought for."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Sought"]


@dataclass(frozen=True, slots=True)
class Sought:
    """An item whose record is sought.

    Args:
        kind: "product", "component", "body", "face" or "edge"; id: of it, of the last two that of
            their body.
        face, edge: its place in the body; blob: hash of the body's shape, for an edge and where it is
            another than the one received; received: hash of that, else empty.
        of_colour: whether the record that gives it its colour is meant; key: that of the property whose
            record is meant, else empty.
    """

    kind: str
    id: str
    face: int = -1
    of_colour: bool = False
    edge: int = -1
    blob: str = ""
    received: str = ""
    key: str = ""
