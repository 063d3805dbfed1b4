"""Carried items: what of a model can be carried or lost, one by one."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.carriage.words import shown
from gondrel.core.model.carries import OWN_COLOURS

__all__ = ["NO_UNIT", "RETURNED", "Item", "Key"]

Key = tuple[str, str, str]
"""Thing, id of the subject in the meant model, aspect of it."""

NO_UNIT = "none said"
"""What is told of the unit of a file that says none."""

RETURNED = "returned:"
"""How the ids of items begin that only the returned model has."""


@dataclass(frozen=True, slots=True)
class Item:
    """One carried item.

    Args:
        thing: one of THINGS; subject: id of a product, occurrence or body, "" for the whole.
        aspect: what of the subject it is.
        path: where it is, for people.
        text: its value, for people.
        weight: how many countable things it stands for (faces of a body, say).
        products: ids of the products concerned, for marking them on screen.
    """

    thing: str
    subject: str
    aspect: str
    path: str
    text: str
    weight: int = 1
    products: tuple[str, ...] = ()

    @property
    def key(self) -> Key:
        """What the item is told apart by."""
        return (self.thing, self.subject, self.aspect)

    @property
    def what(self) -> str:
        """The aspect in the words people read."""
        return (
            OWN_COLOURS.removesuffix(" of ") if self.aspect.startswith(OWN_COLOURS) else shown(self.aspect)
        )
