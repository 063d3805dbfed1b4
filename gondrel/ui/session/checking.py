"""Checks and mends on screen: the last report of the current model, a mend looked at before it is kept.

No widgets.
"""

from __future__ import annotations

import json
from dataclasses import dataclass

from PySide6.QtCore import QObject, QTimer, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.model import Model
from gondrel.core.model.findings import CheckLimits, CheckReport, Mended, MendWish
from gondrel.core.reports.contract import check_object
from gondrel.core.reports.figures import count_of
from gondrel.core.service.messages import CheckHelp
from gondrel.core.service.settings import limits_from
from gondrel.ui.session.comparison import Comparison, same_bodies
from gondrel.ui.session.host import SessionHost

__all__ = ["Checking", "Preview"]

_CHECK = "gondrel.core.service.check"
_DONE = ("mended", "improved")
_IDLE_MS = 4_000
"""How long nothing may have been going on before a model is checked by itself."""


@dataclass(frozen=True, slots=True)
class Preview:
    """A mend that was tried and is not kept yet: the model it makes, and what came of it."""

    title: str
    model: Model
    outcomes: tuple[Mended, ...]

    @property
    def done(self) -> int:
        """How many mends changed something."""
        return sum(each.outcome in _DONE for each in self.outcomes)


class Checking(QObject):
    """Runs checks and mends, and keeps what came of them until the model changes."""

    changed = Signal()
    comparison_changed = Signal()

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.report: CheckReport | None = None
        self.values: dict[str, str] = {}
        self.preview: Preview | None = None
        self.comparison: Comparison | None = None
        self.picked_face: tuple[str, int] | None = None
        self.helps: dict[str, CheckHelp] = {}
        self._checked: Model | None = None
        self._idle = QTimer(self, singleShot=True, interval=_IDLE_MS)
        self._idle.timeout.connect(self._when_idle)
        session.model_changed.connect(self._forget)
        session.model_changed.connect(self._idle.start)

    @property
    def mended(self) -> tuple[Mended, ...]:
        """What came of the mends kept so far."""
        return self.session.crossing.history.mended

    def start(self) -> None:
        """Learn what each check looks for."""

        def take(helps: tuple[CheckHelp, ...]) -> None:
            self.helps = {each.code: each for each in helps}

        self.session.run_job(f"{_CHECK}:check_helps", (), "listing checks", take, quiet=True)

    def _forget(self) -> None:
        """A report is of one model; checking another looks only at what is new in it."""
        self.preview = self.picked_face = None
        self._show_comparison(None)
        if self.report is not None:
            self.report = None
        self.changed.emit()

    def limits(self) -> CheckLimits | None:
        """The limits chosen; None when a text that was given is none, which is told."""
        try:
            return limits_from(self.values)
        except GondrelError as error:
            self.session.tell_error(error)
            return None

    def check(self, *, quiet: bool = False) -> None:
        """Run every check on the current model.

        Args:
            quiet: whether nobody asked for it, so that neither progress nor a failure is told.
        """
        session = self.session
        model = session.model
        if model is None:
            return

        def take(report: CheckReport) -> None:
            if session.model is not None and session.model.products == model.products:
                self.report = report
                self.changed.emit()

        limits = self.limits()
        if limits is None:
            return
        args = (model, limits, str(session.store.folder))
        failed = (lambda _: None) if quiet else None
        session.run_job(f"{_CHECK}:check", args, "checking", take, failed, quiet=quiet)

    def _when_idle(self) -> None:
        """Check the model once the machine has been idle for a while, where the settings say so."""
        session = self.session
        tasks = session.tasks
        wanted = session.settings.now.checks_idle and session.model is not None and self.report is None
        if not wanted or self._checked is session.model:
            return
        if tasks.running or session.loading:
            self._idle.start()
            return
        self._checked = session.model
        self.check(quiet=True)

    def pick_face(self, body: str, face: int) -> None:
        """Say which face of the current model is picked in the stage; an empty body for none."""
        picked = (body, face) if body else None
        if picked != self.picked_face:
            self.picked_face = picked
            self.changed.emit()

    # --- mending ----------------------------------------------------------------------------

    def try_mend(self, title: str, wish: MendWish, *, keep: bool) -> None:
        """Try mends on the current model; keep what they make of it, or show it beside to look at."""
        session = self.session
        model = session.model
        if model is None:
            return
        self.drop()

        def take(result: tuple[Model, tuple[Mended, ...]]) -> None:
            if session.model is None or session.model.products != model.products:
                return  # edited meanwhile
            self.preview = Preview(title, *result)
            if keep and self.preview.done:
                self.keep()
                return
            if self.preview.done:
                self._look(self.preview.model)
            else:
                session.notice.emit("Nothing was mended; the reasons are in the list")
            self.changed.emit()

        limits = self.limits()
        if limits is None:
            return
        args = (model, wish, limits, str(session.store.folder))
        session.run_job("gondrel.core.service.mend:mend", args, f"trying: {title.lower()}", take)

    def keep(self) -> None:
        """Make the mend that was tried a step of the history, and check anew."""
        preview = self.preview
        if preview is None:
            return
        self.preview = None
        what = f"Mend {count_of(preview.done, 'thing')}"
        self.session.edit(lambda _: (what, preview.model), preview.outcomes)
        self.check()

    def drop(self) -> None:
        """Let go of the mend that was tried, or of the look at what was before."""
        self.preview = None
        self._show_comparison(None)
        self.changed.emit()

    def _look(self, model: Model) -> None:
        now = self.session.model
        assert now is not None
        comparison = Comparison(model, ("AS IT IS", "IF MENDED"), "not kept yet", *same_bodies(now, model))
        self._show_comparison(comparison)
        self.session.compare(comparison)

    def show_arranged(self, comparison: Comparison | None) -> None:
        """Show what a step would make beside what there is; None to show it no longer."""
        self._show_comparison(comparison)
        if comparison is not None:
            self.session.compare(comparison)

    def look_back(self) -> None:
        """Show beside the current model what was there before the last mends."""
        now, history = self.session.model, self.session.crossing.history
        mends = [at for at, step in enumerate(history.steps[: history.at + 1]) if step.mended]
        if now is None or not mends:
            return
        before = history.steps[mends[-1] - 1].model
        comparison = Comparison(before, ("MENDED", "BEFORE"), "", *same_bodies(now, before), is_before=True)
        self._show_comparison(comparison)
        self.session.compare(comparison)
        self.changed.emit()

    def _show_comparison(self, comparison: Comparison | None) -> None:
        if comparison is not self.comparison:
            self.comparison = comparison
            self.comparison_changed.emit()
            products = comparison.products if comparison is not None else frozenset[str]()
            self.session.focus(products, products)

    def as_json(self) -> bytes:
        """The findings in the shape of the command line contract; empty when nothing was checked."""
        model = self.session.model
        if self.report is None or model is None or model.provenance is None:
            return b""
        return json.dumps(check_object(model, self.report), indent=1).encode()
