"""What comes of looking for a way to a recipient and of trying it; importing this loads no kernel."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from gondrel.core.carriage.ledger import Proof
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.verdicts import Fate
from gondrel.core.recipients.stand_ins.base import Taken

__all__ = ["Choice", "Rehearsal"]


@dataclass(frozen=True, slots=True)
class Choice:
    """A target as a way to a recipient.

    Args:
        is_read: whether they read it; carried, altered, lost: how many items fare so at theirs.
        harm: the gravest fate of each thing that matters to them.
        bytes: of the file, None where it was not written to be measured; why_not: where it can't be.
        reasons: what speaks for or against it, in sentences.
    """

    kind: str
    title: str
    is_read: bool
    carried: int
    altered: int
    lost: int
    harm: tuple[tuple[str, Fate], ...] = ()
    bytes: int | None = None
    why_not: str = ""
    reasons: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """What a stand-in made of a file, and the ledger of it against what was meant.

    Args:
        facts: measures of what it made, by hash.
    """

    stand_in: str
    taken: Taken
    proof: Proof
    facts: Mapping[str, BodyFacts]
