"""What the carriage needs to know of a target, without knowing its format."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["TargetTraits"]


@dataclass(frozen=True, slots=True)
class TargetTraits:
    """What a target holds and how it will be written.

    Args:
        title: the target's name for people.
        unit: key of the length unit it is written in.
        things: what it can hold at all; reasons: why not, for the others.
        metadata_kinds: kinds of values that keep their type.
    """

    title: str
    unit: str
    things: frozenset[str]
    reasons: tuple[tuple[str, str], ...] = ()
    metadata_kinds: frozenset[str] = frozenset()
    assembly_colours: bool = False
    occurrence_metadata: bool = False

    def why_not(self, thing: str) -> str:
        """Why a thing is not held, empty when it is."""
        return dict(self.reasons).get(thing, "")
