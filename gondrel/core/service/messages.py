"""Plain types that cross from the workers to the interface; importing this loads no kernel."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.carriage.changes import Change, Difference
from gondrel.core.carriage.forecast import Forecast, Foreseen
from gondrel.core.carriage.items import Item
from gondrel.core.carriage.ledger import Compared, Entry, Ledger, Proof
from gondrel.core.carriage.words import is_of_its_own
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.carries import THINGS
from gondrel.core.model.detail import BodyDetail
from gondrel.core.model.differences import Differences
from gondrel.core.model.snapshot import Model

__all__ = [
    "THINGS",
    "BodyDetail",
    "Change",
    "CheckHelp",
    "Compared",
    "ComparedModels",
    "Difference",
    "Entry",
    "Forecast",
    "Foreseen",
    "Item",
    "Ledger",
    "MendHelp",
    "Proof",
    "Sent",
    "TargetChoice",
    "is_of_its_own",
]


@dataclass(frozen=True, slots=True)
class CheckHelp:
    """What a check looks for, for people."""

    code: str
    title: str
    severity: str
    why: str
    cure: str
    source: str


@dataclass(frozen=True, slots=True)
class MendHelp:
    """What a mend does, for people; cures: codes of the findings it is for."""

    code: str
    title: str
    what: str
    cures: tuple[str, ...]
    is_safe: bool
    is_asked: bool
    is_single: bool = False


@dataclass(frozen=True, slots=True)
class TargetChoice:
    """One thing to send as, for a list of choices.

    Args:
        unit: key of the only length unit it can be written in, empty where it is chosen.
        note: what it keeps, in a few words.
        is_mesh: whether it holds triangles only.
        links: whether an assembly may be several files that refer to each other.
    """

    kind: str
    title: str
    suffix: str
    unit: str = ""
    note: str = ""
    is_mesh: bool = False
    links: bool = False


@dataclass(frozen=True, slots=True)
class Sent:
    """A written and proved file.

    Args:
        returned: the model as read back from it; facts: measures of its bodies.
        companions: path and size of further files that belong to it.
    """

    path: str
    bytes: int
    kind: str
    forecast: Forecast
    proof: Proof
    returned: Model
    facts: dict[str, BodyFacts]
    companions: tuple[tuple[str, int], ...] = ()


@dataclass(frozen=True, slots=True)
class ComparedModels:
    """A model against another: the second one, the ledger as a proof without a forecast, differences."""

    other: Model
    proof: Proof
    differences: Differences
