"""What is said of products, revisions and components beside their names: numbers, papers, people, dates."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["ADMINISTRATIVE", "KINDS", "PAPERS", "Particular", "ParticularKind"]


@dataclass(frozen=True, slots=True)
class ParticularKind:
    """A kind of particular.

    Args:
        thing: the thing of the ledger it belongs to.
        fields: names of its values, in order; the first that are given are shown.
    """

    thing: str
    fields: tuple[str, ...]


_PERSON = ("id", "last name", "first name", "further names", "titles before", "titles after")
_MOMENT = (
    "year", "day", "month", "hour", "minute", "second", "zone hours", "zone minutes", "zone side",
)  # fmt: skip
_FIRM = ("organisation id", "organisation", "organisation description")

KINDS: dict[str, ParticularKind] = {
    "definition id": ParticularKind("numbers", ("id",)),
    "definition description": ParticularKind("metadata", ("description",)),
    "revision description": ParticularKind("metadata", ("description",)),
    "component id": ParticularKind("numbers", ("id",)),
    "component description": ParticularKind("metadata", ("description",)),
    "reference designator": ParticularKind("names", ("designator",)),
    "alias": ParticularKind("numbers", ("number", "role", "role description")),
    "number at a source": ParticularKind(
        "numbers", ("number", "role", "role description", "source")
    ),
    "further name": ParticularKind("names", ("name",)),
    "make or buy": ParticularKind("metadata", ("source",)),
    "category": ParticularKind("metadata", ("category", "description")),
    "class": ParticularKind("metadata", ("class", "description", "role", "role description")),
    "group": ParticularKind("metadata", ("group", "description")),
    "document": ParticularKind(
        "metadata", ("number", "title", "description", "kind", "source")
    ),
    "person": ParticularKind("metadata", ("role", *_PERSON, *_FIRM)),
    "organisation": ParticularKind("metadata", ("role", *_FIRM)),
    "date": ParticularKind("metadata", ("role", "year", "day", "month")),
    "moment": ParticularKind("metadata", ("role", *_MOMENT)),
    "approval": ParticularKind("metadata", ("status", "level", "role", *_PERSON, *_FIRM, *_MOMENT)),
    "security class": ParticularKind("metadata", ("name", "purpose", "level")),
    "certification": ParticularKind("metadata", ("name", "purpose", "kind")),
    "contract": ParticularKind("metadata", ("name", "purpose", "kind")),
    "effectivity": ParticularKind("metadata", ("id", "first", "last")),
    "dated effectivity": ParticularKind(
        "metadata", ("id", "from year", "from day", "from month", "to year", "to day", "to month")
    ),
    "layer description": ParticularKind("layers", ("layer", "description")),
    "hidden layer": ParticularKind("layers", ("layer",)),
}  # fmt: skip
"""Every kind of particular by its name for people."""

ADMINISTRATIVE = frozenset(("person", "organisation", "date", "moment", "approval", "security class"))
"""Kinds that a protocol can demand of every product, so that a writer adds them of its own accord."""
PAPERS = ("security class", "certification", "contract")
"""Kinds that people, dates and approvals can be of."""


@dataclass(frozen=True, slots=True)
class Particular:
    """One particular.

    Args:
        kind: one of KINDS; values: as many as the kind has fields, empty where nothing is said.
        of: what of the subject it is said of: product, revision, definition, or a paper of it, as its
            security class; empty for the subject itself.
    """

    kind: str
    values: tuple[str, ...]
    of: str = ""

    @property
    def text(self) -> str:
        """Its values for people."""
        return ", ".join(value.replace("\n", " ") for value in self.values if value)
