"""What differs between two models beside what the ledger says: material and places."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Differences", "MaterialChange", "Moved"]


@dataclass(frozen=True, slots=True)
class MaterialChange:
    """How the material of a part changed, in its own frame.

    Args:
        before, after: product ids in the first and the second model, empty where there is none.
        added, removed: hashes of the bodies that are there only after and only before, empty for none.
        added_volume, removed_volume: mm3, of one part; places: how often the part stands in its model.
    """

    name: str
    before: str
    after: str
    added: tuple[str, ...]
    removed: tuple[str, ...]
    added_volume: float
    removed_volume: float
    places: int


@dataclass(frozen=True, slots=True)
class Moved:
    """A component that stands elsewhere in its assembly.

    Args:
        before, after: occurrence ids; distance: of its origin, mm; angle: by which it is turned, rad.
    """

    name: str
    before: str
    after: str
    distance: float
    angle: float


@dataclass(frozen=True, slots=True)
class Differences:
    """All of it, and the names of the parts whose material could not be compared."""

    materials: tuple[MaterialChange, ...] = ()
    moved: tuple[Moved, ...] = ()
    refused: tuple[str, ...] = ()

    @property
    def added(self) -> float:
        """Volume of all material added, each part once, mm3."""
        return sum(change.added_volume for change in self.materials)

    @property
    def removed(self) -> float:
        """Volume of all material removed, each part once, mm3."""
        return sum(change.removed_volume for change in self.materials)
