"""What changed at a source, as plain values."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.model.snapshot import Model

__all__ = ["Change", "Difference"]


@dataclass(frozen=True, slots=True)
class Change:
    """One thing that changed at the source.

    Args:
        kind: "added", "removed", "moved", "geometry" or "metadata".
        product: id of the product concerned in the model as first received, or in the new one when
            it was added; label: its name; text: what changed, with figures.
    """

    kind: str
    product: str
    label: str
    text: str


@dataclass(frozen=True, slots=True)
class Difference:
    """All changes, and the new model."""

    changes: tuple[Change, ...]
    new: Model

    def of(self, kind: str) -> list[Change]:
        """The changes of one kind."""
        return [change for change in self.changes if change.kind == kind]
