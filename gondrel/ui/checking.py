"""Checks on screen: the last report of the current model; no widgets."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from gondrel.core.model import Model
from gondrel.core.model.findings import CheckReport, Mended
from gondrel.core.reports.contract import check_object
from gondrel.core.reports.figures import count_of
from gondrel.core.service.messages import CheckHelp

if TYPE_CHECKING:
    from gondrel.ui.session import Session

__all__ = ["Checking"]

_CHECK = "gondrel.core.service.check"


class Checking(QObject):
    """Runs checks and keeps what they found until the model changes."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.report: CheckReport | None = None
        self.values: dict[str, str] = {}
        self.mended: tuple[Mended, ...] = ()
        self.helps: dict[str, CheckHelp] = {}
        session.model_changed.connect(self._forget)

    def start(self) -> None:
        """Learn what each check looks for."""

        def take(found: tuple[CheckHelp, ...]) -> None:
            self.helps = {each.code: each for each in found}

        self.session.run_job(f"{_CHECK}:check_helps", (), "listing checks", take, quiet=True)

    def _forget(self) -> None:
        """A report is of one model; checking another looks only at what is new in it."""
        self.mended = ()
        if self.report is not None:
            self.report = None
            self.changed.emit()

    def check(self) -> None:
        """Run every check on the current model."""
        session = self.session
        model = session.model
        if model is None:
            return

        def take(report: CheckReport) -> None:
            if session.model is not None and session.model.products == model.products:
                self.report = report
                self.changed.emit()

        args = (model, self.values, str(session.store.folder))
        session.run_job(f"{_CHECK}:check", args, "checking", take)

    def mend(self, *, safe: bool, tolerance: float) -> None:
        """Try every mend that cures something, or only those that keep the shape; then check anew."""
        session = self.session
        model = session.model
        if model is None:
            return

        def take(result: tuple[Model, tuple[Mended, ...]]) -> None:
            mended, told = result
            done = sum(each.outcome in ("mended", "improved") for each in told)
            what = f"Mend {count_of(done, 'thing')}"
            session.edit(lambda _: (what, mended))
            self.mended = told
            if not done:
                session.notice.emit("Nothing was mended")
            self.changed.emit()
            self.check()

        args = (model, (), safe, tolerance, str(session.store.folder))
        session.run_job("gondrel.core.service.mend:mend", args, "mending", take)

    def as_json(self) -> bytes:
        """The findings in the shape of the command line contract; empty when nothing was checked."""
        model = self.session.model
        if self.report is None or model is None or model.provenance is None:
            return b""
        return json.dumps(check_object(model, self.report), indent=1).encode()
