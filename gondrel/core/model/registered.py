"""Items of a register and their revisions, as everyone but the store sees them."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

__all__ = ["Change", "Event", "Put", "Reach", "Revision", "RevisionName", "State", "Use", "WhereUsed"]


class State(StrEnum):
    """How far a revision is: it can be changed, is fixed for good, or is no longer to be used."""

    IN_WORK = "in work"
    RELEASED = "released"
    WITHDRAWN = "withdrawn"


@dataclass(frozen=True, slots=True)
class RevisionName:
    """What a revision is called: the number of its item, its major letters and its minor number."""

    number: str
    major: str
    minor: int

    def __str__(self) -> str:
        return f"{self.number}/{self.text}"

    @property
    def text(self) -> str:
        """The revision alone, as a file carries it: B.2."""
        return f"{self.major}.{self.minor}"


@dataclass(frozen=True, slots=True)
class Revision:
    """A revision of an item.

    Args:
        id: of the revision, id of its item; content: SHA-256 of what it is, its number and revision left
            out; bodies: hashes of its own bodies.
        made, changed: when (UTC) and by whom; source: name and SHA-256 of the file it came from.
        uses: how many components it has; lineage: id of the revision it is an independent copy of.
        stamp: grows with every change, so that who looked at it can tell whether it is still the same.
    """

    id: str
    item: str
    name: RevisionName
    label: str
    description: str
    state: State
    content: str
    bodies: tuple[str, ...]
    made: tuple[str, str]
    changed: tuple[str, str]
    source: tuple[str, str]
    remarks: str
    uses: int
    lineage: str = ""
    stamp: int = 1


@dataclass(frozen=True, slots=True)
class Use:
    """Where a revision is used in another: how often, directly."""

    parent: RevisionName
    child: RevisionName
    count: int
    state: State


@dataclass(frozen=True, slots=True)
class WhereUsed:
    """A use upward, through all levels: how many levels up it is."""

    use: Use
    level: int


@dataclass(frozen=True, slots=True)
class Put:
    """What became of a product that was put in: recognised, new revision or new item."""

    name: RevisionName
    what: str


@dataclass(frozen=True, slots=True)
class Change:
    """What repointing does to one assembly.

    Args:
        becomes: the revision that has the new use; the same where it is changed in place.
        components: places, from 1, and names of its components that point elsewhere; direct: places of
            those that use the old revision themselves, and not something that becomes new for it.
        interfaces: faces that moved and that other parts touch, in words; None where nobody looked.
    """

    assembly: RevisionName
    becomes: RevisionName
    components: tuple[tuple[int, str], ...]
    direct: frozenset[int] = frozenset()
    interfaces: tuple[str, ...] | None = None


@dataclass(frozen=True, slots=True)
class Event:
    """Something that happened to a revision."""

    revision: RevisionName
    what: str
    who: str
    when: str


@dataclass(frozen=True, slots=True)
class Reach:
    """What is asked of items: a part of number or name, a state."""

    text: str = ""
    state: str = ""
    most: int = 1000
