"""A structure proposed for a model: which bodies are which part, how often it is used, what belongs
together. Nothing is done before it is taken."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.arrange.patterns import Pattern
from gondrel.core.likeness.standard_parts import StandardPart
from gondrel.core.model.body import Rgba
from gondrel.core.model.product import Placement

__all__ = ["Proposal", "ProposedGroup", "ProposedPart", "ProposedUse", "Stood"]


@dataclass(frozen=True, slots=True)
class ProposedUse:
    """One place of a part.

    Args:
        id: of the occurrence that there is or that is made; parent: product it is in, empty for a root.
        source: product the body was in; body: id of the body that stands there now.
        placement: part to parent; accuracy: how far the body lies off the part there, mm.
        colour: of the body there, where it is not that of the part.
    """

    id: str
    parent: str
    source: str
    body: str
    name: str
    placement: Placement
    accuracy: float = 0.0
    colour: Rgba | None = None


@dataclass(frozen=True, slots=True)
class ProposedPart:
    """Bodies that are one part.

    Args:
        key: names it in the proposal; product: the product it is already, empty for one to be made.
        body: id of the body that it is made of; bodies: ids of all bodies that it stands for.
        pattern: how its places stand to one another; standard: what it is by its dimensions.
        mirror_of: name of the part whose mirror image it is.
        evidence: what speaks for it, in words.
    """

    key: str
    name: str
    number: str
    product: str
    body: str
    bodies: tuple[str, ...]
    uses: tuple[ProposedUse, ...]
    pattern: Pattern | None = None
    standard: StandardPart | None = None
    mirror_of: str = ""
    evidence: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class ProposedGroup:
    """Parts that touch and stand to one another the same way several times: a sub-assembly.

    Args:
        parent: the product they are in.
        uses: each place: the motion from the first, and ids of the uses that are in it, in one order.
    """

    key: str
    name: str
    parent: str
    uses: tuple[tuple[Placement, tuple[str, ...]], ...]
    evidence: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Stood:
    """Whether bodies that are uses of one part now stand where they stood, measured by the kernel.

    Args:
        deviation: the largest between a body and its part in the place, mm; measured: how many were; of:
            how many there are.
    """

    deviation: float
    measured: int
    of: int


@dataclass(frozen=True, slots=True)
class Proposal:
    """What is proposed for a model.

    Args:
        groups: inner ones first.
        unassigned: ids of bodies that could not be looked at, with the reason.
    """

    parts: tuple[ProposedPart, ...]
    groups: tuple[ProposedGroup, ...] = ()
    unassigned: tuple[tuple[str, str], ...] = ()

    @property
    def changes(self) -> bool:
        """Whether anything would be another way than it is."""
        return bool(self.groups) or any(
            not part.product or any(use.source != part.product for use in part.uses) for part in self.parts
        )
