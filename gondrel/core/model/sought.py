"""What a record is sought for."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Sought"]


@dataclass(frozen=True, slots=True)
class Sought:
    """An item whose record is sought.

    Args:
        kind: "product", "component", "body" or "face"; id: of it, of a face that of its body.
        face: its place in the body; of_colour: whether the record that gives it its colour is meant.
    """

    kind: str
    id: str
    face: int = -1
    of_colour: bool = False
