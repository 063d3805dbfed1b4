"""Comparing on screen: the model beside another one, a file or an earlier step of its history.

No widgets.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gondrel.core.model import Model
from gondrel.core.model.overlay import difference_model, overlaid
from gondrel.core.service.messages import ComparedModels
from gondrel.core.service.settings import ReceiveOptions
from gondrel.ui.session.comparison import Comparison, paired_by
from gondrel.ui.session.host import SessionHost

__all__ = ["BESIDE", "DIFFERENCE", "OVERLAY", "Comparing"]

_COMPARE = "gondrel.core.service.compare"
BESIDE, OVERLAY, DIFFERENCE = "beside", "overlay", "difference"


@dataclass(frozen=True, slots=True)
class _Subject:
    """What is compared: the model that comes first and the one that comes after.

    Args:
        captions: of the two in the picture; detail: what the other one is called in full.
        is_now_after: whether the current model is the one that comes after.
    """

    before: Model
    after: Model
    captions: tuple[str, str]
    detail: str = ""
    is_now_after: bool = False


class Comparing(QObject):
    """Compares the current model with another, and says what stands in the second pane meanwhile."""

    changed = Signal()

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.compared: ComparedModels | None = None
        self.way = BESIDE
        self.names = ("", "")
        self.is_working = False
        self._subject: _Subject | None = None
        self._shown: Comparison | None = None
        session.model_changed.connect(self.end)

    @property
    def beside(self) -> Comparison | None:
        """What stands in the second pane, None while nothing is compared."""
        return self._shown

    def with_file(self, path: str) -> None:
        """Compare the model with that of a file, which is the later one."""
        model = self.session.model
        if model is None:
            return
        name = Path(path).name
        args = (model, path, ReceiveOptions(), str(self.session.store.folder))
        subject = _Subject(model, model, ("THIS", "OTHER"), name)
        self._run("compare_with_file", args, f"comparing with {name}", subject, ("this", name))

    def with_step(self, index: int) -> None:
        """Compare an earlier step of the history with the model as it is now."""
        steps, model = self.session.crossing.history.steps, self.session.model
        if model is None or not 0 <= index < len(steps):
            return
        before = steps[index].model
        args = (before, model, str(self.session.store.folder))
        name = f"after \u201c{steps[index].name}\u201d"
        subject = _Subject(before, model, ("EARLIER", "NOW"), name, is_now_after=True)
        self._run("compare_models", args, f"comparing with the model {name}", subject, (name, "now"))

    def with_model(self, other: Model, names: tuple[str, str]) -> None:
        """Compare the model with another, whose bodies are in the store too, which is the later one.

        Args:
            names: of the model and of the other.
        """
        model = self.session.model
        if model is None:
            return
        args = (model, other, str(self.session.store.folder))
        self._run(
            "compare_models", args, f"comparing {names[0]} with {names[1]}",
            _Subject(model, other, names, names[1]), names,
        )  # fmt: skip

    def with_returned(self) -> None:
        """Compare the model with what came back."""
        model, sent = self.session.model, self.session.crossing.sent
        if model is None or sent is None:
            return
        args = (model, sent.returned, str(self.session.store.folder))
        subject = _Subject(model, sent.returned, ("RECEIVED", "RETURNED"), Path(sent.path).name)
        self._run(
            "compare_models", args, "comparing with what came back", subject, ("received", "returned")
        )

    def _run(
        self, function: str, args: tuple[object, ...], doing: str, subject: _Subject, names: tuple[str, str]
    ) -> None:
        current = self.session.model

        def take(compared: ComparedModels) -> None:
            self.is_working = False
            if self.session.model is current:
                self.compared, self.names = compared, names
                self._subject = subject if subject.is_now_after else replace(subject, after=compared.other)
                self.show(self.way)

        def stopped() -> None:
            self.is_working = False
            self.changed.emit()

        self.is_working = True
        self.changed.emit()
        self.session.run_job(f"{_COMPARE}:{function}", args, doing, take, stopped=stopped)

    def show(self, way: str) -> None:
        """Show the two beside one another, over one another, or only what differs."""
        self.way = way
        if self._subject is not None and self.compared is not None:
            self._shown = self._made(self._subject, self.compared)
            self.session.compare(self._shown)
        self.changed.emit()

    def _made(self, subject: _Subject, compared: ComparedModels) -> Comparison:
        changes = compared.differences
        products = frozenset(c.before for c in changes.materials) | frozenset(
            c.after for c in changes.materials
        )
        first, second = subject.captions
        here = second if subject.is_now_after else first
        if self.way == OVERLAY:
            told = f"{first.lower()} blue, {second.lower()} ochre"
            return Comparison(overlaid(subject.before, subject.after, changes), (here, "BOTH"), told)
        if self.way == DIFFERENCE:
            model = difference_model(subject.before, subject.after, changes)
            return Comparison(model, (here, "DIFFERENCE"), "added green, removed red")
        ours, theirs = paired_by(subject.before, compared.other, compared.proof)
        if subject.is_now_after:
            return Comparison(
                subject.before, (second, first), subject.detail, theirs, ours, products, is_before=True
            )
        return Comparison(subject.after, (first, second), subject.detail, ours, theirs, products)

    def end(self) -> None:
        """Compare no longer."""
        if self.compared is None and self._shown is None:
            return
        self.compared = self._shown = self._subject = None
        self.changed.emit()
