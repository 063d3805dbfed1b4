"""The carried things, and what a target can hold of them; the forecast is computed from it."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.model.verdicts import Fate

__all__ = ["EDGE_COLOURS", "FILE_DESCRIPTION", "OWN_COLOURS", "READ", "THINGS", "Carries", "Fated"]

Fated = tuple[tuple[str, str, str], tuple[Fate, str] | tuple[Fate, str, int]]
"""What a format foresees of an item: its key; its fate and why; and how many things come back beside
it, such as the other pieces of a body or copies of a shared part, where there are any."""

THINGS = (
    "bodies", "geometry", "units", "structure", "placement", "names", "numbers", "revisions",
    "colours", "layers", "materials", "metadata", "validation", "remainder",
)  # fmt: skip
"""The things of the ledger in its order (words of the command line contract). The remainder is what a
file holds besides, which no target gets."""

READ = THINGS[:-1]
"""The things that are read into a model, so that a target may hold them."""

EDGE_COLOURS = "edge colours"
"""The aspect of a body that the colours of its single edges are."""

FILE_DESCRIPTION = "file description"
"""The aspect of a model that the text in the head of its file is."""

OWN_COLOURS = "colours in this place of "
"""How the aspect of a component begins that its colours of one body are; the id of that body follows."""

_NOT_READ = "it is not read into the model, so nothing can be written of it"


@dataclass(frozen=True, slots=True)
class Carries:
    """What a target can hold; the forecast is computed from it.

    Args:
        things: the things it can hold at all.
        reasons: for each thing it can't hold, why, in one sentence.
        metadata_kinds: kinds of metadata values that keep their type.
        occurrence_metadata: whether an occurrence can have metadata of its own.
        measures: whether values keep what they measure and their unit.
        also: beginnings of aspects that are held although their thing is not.
        without: beginnings of aspects that are not held although their thing is, each with why.
        remarks: what a sender should know of the target besides, in sentences.
    """

    things: frozenset[str]
    reasons: tuple[tuple[str, str], ...] = ()
    metadata_kinds: frozenset[str] = frozenset()
    occurrence_metadata: bool = False
    remarks: tuple[str, ...] = ()
    measures: bool = False
    also: tuple[str, ...] = ()
    without: tuple[tuple[str, str], ...] = ()

    def holds(self, thing: str, aspect: str) -> bool:
        """Whether a thing is held, or else this aspect of it."""
        return thing in self.things or bool(self.also and aspect.startswith(self.also))

    def why_without(self, aspect: str) -> str:
        """Why an aspect is not held although its thing is, empty when it is held."""
        return next((why for start, why in self.without if aspect.startswith(start)), "")

    def why_not(self, thing: str) -> str:
        """Why a thing is not held, empty when it is or no reason is given."""
        return _NOT_READ if thing == "remainder" else dict(self.reasons).get(thing, "")
