"""The Mend sheet: what can be mended, doing it, and what each mend did."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton

from gondrel.core.model.findings import Mended, Severity
from gondrel.core.reports.figures import count_of
from gondrel.ui.presenters.cells import Finding
from gondrel.ui.session import Session
from gondrel.ui.sheets.base import FindingCard, SheetView, head, quiet, rule

__all__ = ["MendSheet"]

_VERDICT = {"mended": "carried", "improved": "altered", "unchanged": "unproved", "refused": "lost"}
_WITHIN = (("0.001", "0.001 mm"), ("0.01", "0.01 mm"), ("0.1", "0.1 mm"))
_UNITS = {"volume": " mm\u00b3", "area": " mm\u00b2"}
_CURED = frozenset(("T101", "T102", "T103", "T104", "T105", "T107", "G301", "G302", "A506", "F701"))


class MendSheet(SheetView):
    """Mends are tried on what checks found; each is measured, and refused when it makes things worse."""

    opened = Signal(object)

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__("Mend", session.turns, parent)
        self.session = session
        self.within = QComboBox()
        self.within.setAccessibleName("Edges belong together within")
        for value, text in _WITHIN:
            self.within.addItem(text, value)
        self.add_progress(session.tasks)
        self.main = self.add_main("Mend what is safe")
        self.main.clicked.connect(self._main)
        self.all = QPushButton("Close rims too, and make solids")
        self.all.clicked.connect(lambda: self._mend(False))
        self.foot.addWidget(self.all)
        session.checking.changed.connect(self.later)
        session.model_changed.connect(self.later)
        session.tasks.changed.connect(self._progress)

    def _main(self) -> None:
        if self.session.checking.report is None:
            self.session.checking.check()
        else:
            self._mend(True)

    def _mend(self, safe: bool) -> None:
        self.session.checking.mend(safe=safe, tolerance=float(self.within.currentData()))

    def _progress(self) -> None:
        if not self.isVisible():
            self.later()
            return
        busy = self.show_task()
        self.main.setVisible(not busy)
        self.main.setEnabled(self.session.model is not None)
        self.all.setVisible(not busy and self.session.checking.report is not None)

    def refresh(self) -> None:
        """Show what can be mended and what was."""
        session, checking = self.session, self.session.checking
        self.within.setParent(None)
        self.clear()
        report = checking.report
        self.main.setText("Mend what is safe" if report is not None else "Check first")
        row = QHBoxLayout()
        row.addWidget(quiet("Edges belong together within"))
        row.addWidget(self.within)
        self.column.addLayout(row)
        if session.model is None:
            self.add(quiet("Receive a model first."))
        elif report is None and not checking.mended:
            self.add(quiet("Mends work on what checks found, so check first. Nothing is changed by that."))
        if report is not None:
            self._state()
        if checking.mended:
            self.add(rule())
            self.add(head("What was done"))
            for mended in checking.mended:
                self._done(mended)
            self.add(quiet("Each is one step of the history with the others; Ctrl+Z takes it back."))
        self.finish()
        self._progress()

    def _state(self) -> None:
        report = self.session.checking.report
        assert report is not None
        grave = [f for f in report.findings if f.severity is not Severity.NOTE]
        can = [f for f in grave if f.code in _CURED]
        if not grave:
            self._card("carried", "Nothing to mend", "The checks found neither a fault nor a doubt", "")
            return
        faults, doubts = report.count(Severity.FAULT), report.count(Severity.DOUBT)
        found = ", ".join(count_of(n, word) for n, word in ((faults, "fault"), (doubts, "doubt")) if n)
        self.add_facts([("Found", found), ("Mendable", f"{len(can)} of them")])
        if len(can) < len(grave):
            self.add(
                quiet(
                    "Gaps, splines and overlaps are found but not mended in this version; "
                    "they go to the receiver as they are."
                )
            )

    def _done(self, mended: Mended) -> None:
        before, after = dict(mended.before), dict(mended.after)
        changed = [k for k in after if abs(after[k] - before.get(k, 0.0)) > 1e-9 * max(abs(after[k]), 1.0)]
        figures = ", ".join(
            f"{k} {before.get(k, 0.0):,.6g} to {after[k]:,.6g}{_UNITS.get(k, '')}" for k in changed
        )
        verdict = _VERDICT[mended.outcome]
        who = mended.body if mended.body == mended.product or not mended.product else mended.product
        text = f"{who}: {mended.outcome}; {mended.why}"
        card = FindingCard(
            Finding("", verdict, mended.title, text, figures, frozenset({mended.product_id}), frozenset())
        )
        card.opened.connect(self.opened)
        self.add(card)

    def _card(self, verdict: str, title: str, text: str, note: str) -> None:
        self.add(FindingCard(Finding("", verdict, title, text, note, frozenset(), frozenset())))
