"""Undo and redo over snapshots, each step with the name of what was done."""

from __future__ import annotations

from dataclasses import dataclass, field

from gondrel.core.model.findings import Mended
from gondrel.core.model.snapshot import Model

__all__ = ["History", "Step"]


@dataclass(frozen=True, slots=True)
class Step:
    """A snapshot and the name of the edit that made it.

    Args:
        mended: what came of the mends of that edit.
        script: the edit as it stands in a steps file, empty where it has no such form.
    """

    name: str
    model: Model
    mended: tuple[Mended, ...] = ()
    script: str = ""


@dataclass(frozen=True, slots=True)
class History:
    """Snapshots in the order they were made, and which one is current.

    Example:
        >>> history = History.begin(Model(), "Receive").did("Rename", Model())
        >>> history.undo().current.name
        'Receive'
        >>> history.undo().redo().current.name
        'Rename'
    """

    steps: tuple[Step, ...] = ()
    at: int = field(default=-1)

    @classmethod
    def begin(cls, model: Model, name: str) -> History:
        """A history with one snapshot."""
        return cls((Step(name, model),), 0)

    @property
    def current(self) -> Step:
        """The current step. Raises IndexError when there is none."""
        if self.at < 0:
            raise IndexError("the history is empty")
        return self.steps[self.at]

    @property
    def can_undo(self) -> bool:
        """Whether there is a step to go back to."""
        return self.at > 0

    @property
    def can_redo(self) -> bool:
        """Whether there is an undone step to do again."""
        return self.at + 1 < len(self.steps)

    def did(self, name: str, model: Model, mended: tuple[Mended, ...] = (), script: str = "") -> History:
        """The history after an edit; undone steps are dropped."""
        kept = (*self.steps[: self.at + 1], Step(name, model, mended, script))
        return History(kept, len(kept) - 1)

    @property
    def scripts(self) -> list[str]:
        """Each edit so far as it stands in a steps file, empty for one that has no such form."""
        return [step.script for step in self.steps[1 : self.at + 1]]

    @property
    def mended(self) -> tuple[Mended, ...]:
        """What came of all mends up to the current step."""
        return tuple(each for step in self.steps[: self.at + 1] for each in step.mended)

    def undo(self) -> History:
        """One step back, or the same history at its beginning."""
        return History(self.steps, self.at - 1) if self.can_undo else self

    def redo(self) -> History:
        """One step forward, or the same history at its end."""
        return History(self.steps, self.at + 1) if self.can_redo else self
