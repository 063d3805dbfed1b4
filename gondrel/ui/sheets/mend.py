"""The Mend sheet: the mends there are for what was found; look at one, keep it, see what each did."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QPushButton

from gondrel.core.model.findings import Finding, Mended, MendWish, PlannedMend, Severity
from gondrel.core.reports.figures import count_of
from gondrel.ui.presenters.cells import LedgerGroup
from gondrel.ui.presenters.mends import VERDICTS, figures_line, plan_line
from gondrel.ui.session.session import Session
from gondrel.ui.session.stations import Station
from gondrel.ui.sheets.base import FindingCard, SheetView
from gondrel.ui.widgets.labels import head, quiet, rule

__all__ = ["MendSheet"]

_WITHIN = (("0.001", "0.001 mm"), ("0.01", "0.01 mm"), ("0.1", "0.1 mm"))
_REMOVE = "R114"
_CLOSE = "R104"


class MendSheet(SheetView):
    """Mends are tried on what checks found; each is measured, and refused when it makes things worse."""

    opened = Signal(object)
    next_wanted = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__("Mend", session.deferred, parent)
        self.session = session
        self.open_code = ""
        self.cards: dict[str, FindingCard] = {}
        self.looks: dict[str, QPushButton] = {}
        self.does: dict[str, QPushButton] = {}
        self.within = QComboBox()
        self.within.setAccessibleName("Edges belong together within")
        for value, text in _WITHIN:
            self.within.addItem(text, value)
        self.smooth = QCheckBox("Run on smoothly from the neighbours")
        self.add_progress(session.tasks)
        self.main = self.add_main("Mend what is safe")
        self.main.clicked.connect(self._main)
        self.second = QPushButton("Look at it first")
        self.second.clicked.connect(self._second)
        self.foot.addWidget(self.second)
        session.checking.changed.connect(self.later)
        session.model_changed.connect(self.later)
        session.selection_changed.connect(self.later)
        session.tasks.changed.connect(self._progress)

    # --- what is asked for ------------------------------------------------------------------

    def _wish(self, **more: Any) -> MendWish:
        tolerance = float(self.within.currentData())
        products = self.session.selected_products()
        return MendWish(tolerance=tolerance, products=products, smooth=self.smooth.isChecked(), **more)

    def _main(self) -> None:
        checking = self.session.checking
        if checking.preview is not None and checking.preview.done:
            checking.keep()
        elif checking.report is None:
            checking.check()
        elif self._can():
            checking.try_mend("Mend what is safe", self._wish(safe=True), keep=True)
        else:
            self.next_wanted.emit()

    def _second(self) -> None:
        checking = self.session.checking
        if checking.comparison is not None or checking.preview is not None:
            checking.drop()
        elif checking.report is None and checking.mended:
            checking.look_back()
        else:
            checking.try_mend("Mend what is safe", self._wish(safe=True), keep=False)

    def _one(self, code: str, title: str, keep: bool) -> None:
        self.session.checking.try_mend(title, self._wish(only=(code,)), keep=keep)

    def look_at_one(self, finding: Finding) -> None:
        """Try the mend that there is for one finding alone, to be looked at."""
        report = self.session.checking.report
        mend = report.single_mend(finding) if report is not None else None
        if mend is not None:
            wish = replace(self._wish(only=(mend.code,)), products=(), finding=finding)
            self.session.go(Station.MEND)
            self.session.checking.try_mend(mend.title, wish, keep=False)

    def _remove_picked(self) -> None:
        picked = self.session.checking.picked_face
        if picked is not None:
            body, face = picked
            wish = self._wish(only=(_REMOVE,), faces=((body, (face,)),))
            self.session.checking.try_mend("Remove the picked face", wish, keep=False)

    # --- what is shown ----------------------------------------------------------------------

    def _progress(self) -> None:
        if not self.isVisible():
            self.later()
            return
        checking = self.session.checking
        busy = self.show_task()
        looking = checking.preview is not None and bool(checking.preview.done)
        report, has_model = checking.report, self.session.model is not None
        can = self._can()
        usual = "Check first" if report is None else "Mend what is safe" if can else "Go on to Send"
        self.main.setText("Keep this mend" if looking else usual)
        self.main.setVisible(not busy)
        self.main.setEnabled(has_model)
        comparison = checking.comparison is not None
        other = "Drop it" if looking else "Close the comparison"
        self.second.setText(other if looking or comparison else "Look at it first")
        self.second.setVisible(not busy and (looking or comparison or can))

    def _can(self) -> bool:
        """Whether there is a safe mend for what was found."""
        report = self.session.checking.report
        return report is not None and any(m.is_safe and not m.is_asked for m in report.mends)

    def refresh(self) -> None:
        """Show what can be mended, what a mend would do, and what was done."""
        session, checking = self.session, self.session.checking
        for kept in (self.within, self.smooth):
            kept.setParent(None)
        self.clear()
        self.cards.clear()
        self.looks.clear()
        self.does.clear()
        if session.model is None:
            self.add(quiet("Receive a model first."))
        elif checking.preview is not None:
            self._preview()
        else:
            if checking.report is not None:
                self._plan()
            elif not checking.mended:
                text = "Mends work on what checks found, so check first. Nothing is changed by that."
                self.add(quiet(text))
            self._picked()
            self._history()
        self.finish()
        self._progress()

    def _preview(self) -> None:
        preview = self.session.checking.preview
        assert preview is not None
        self.add(head("If it is mended"))
        if preview.done:
            text = (
                "The right side shows it mended; both sides are coloured by how far they lie apart. "
                "Hold Space to swap them. Nothing is changed until you keep it."
            )
            self.add(quiet(text))
        else:
            self.add(quiet("Nothing of it could be done; each says why."))
        for mended in preview.outcomes:
            self._done(mended)
        if not preview.outcomes:
            self.add(quiet("There was nothing to mend by the mends that were asked for."))
        if not preview.done:
            back = QPushButton("Back to the list")
            back.clicked.connect(self.session.checking.drop)
            self.add(back)

    def _plan(self) -> None:
        report = self.session.checking.report
        assert report is not None
        products = set(self.session.selected_products())
        mends = [m for m in report.mends if not products or not m.products or products & set(m.products)]
        grave = [f for f in report.findings if f.severity is not Severity.NOTE]
        cured = {code for mend in report.mends for code in mend.cures}
        left = sum(f.code not in cured for f in grave)
        if not grave and not mends:
            self._card("carried", "Nothing to mend", "The checks found neither a fault nor a doubt", "")
            return
        faults, doubts = report.count(Severity.FAULT), report.count(Severity.DOUBT)
        counts_text = ", ".join(
            count_of(n, word) for n, word in ((faults, "fault"), (doubts, "doubt")) if n
        )
        self.add_facts(
            [
                ("Finding", counts_text or "notes only"),
                ("Without a mend", f"{left} of them" if left else "none"),
            ]
        )
        row = QHBoxLayout()
        row.addWidget(quiet("Edges belong together within"))
        row.addWidget(self.within)
        self.column.addLayout(row)
        usual = [m for m in mends if not m.is_asked]
        asked = [m for m in mends if m.is_asked]
        for title, group in (("Planned, in this order", usual), ("Only when you ask for it", asked)):
            if group:
                self.add(head(title))
                for mend in group:
                    self._planned(mend)
            if group is usual and len(usual) > 1:
                everything = QPushButton("Do all of these")
                everything.clicked.connect(
                    lambda: self.session.checking.try_mend("Mend all", self._wish(), keep=True)
                )
                self.does["all"] = everything
                self.add(everything)
        if products:
            self.add(quiet(f"On {count_of(len(products), 'selected part')} only; select nothing for all."))

    def _planned(self, mend: PlannedMend) -> None:
        is_open = mend.code == self.open_code
        verdict = "carried" if mend.is_safe else "altered"
        card = self._card(verdict, mend.title, plan_line(mend), mend.what if is_open else "")
        card.opened.connect(lambda _, code=mend.code: self._open(code))
        self.cards[mend.code] = card
        if not is_open:
            return
        if mend.code == _CLOSE:
            self.add(self.smooth)
        row = QHBoxLayout()
        look, do = QPushButton("Look at it"), QPushButton("Do it")
        look.clicked.connect(lambda: self._one(mend.code, mend.title, False))
        do.clicked.connect(lambda: self._one(mend.code, mend.title, True))
        row.addWidget(look)
        row.addWidget(do)
        self.looks[mend.code], self.does[mend.code] = look, do
        self.column.addLayout(row)

    def _open(self, code: str) -> None:
        self.open_code = "" if self.open_code == code else code
        self.later()

    def _picked(self) -> None:
        if self.session.checking.picked_face is None:
            return
        button = QPushButton("Remove the picked face, neighbours meet")
        button.clicked.connect(self._remove_picked)
        self.looks["picked"] = button
        self.add(button)

    def _history(self) -> None:
        mended = self.session.checking.mended
        if not mended:
            return
        self.add(rule())
        self.add(head("What was done"))
        for each in mended:
            self._done(each)
        if self.session.checking.comparison is None:
            back = QPushButton("Compare with what was before")
            back.clicked.connect(self.session.checking.look_back)
            self.looks["before"] = back
            self.add(back)
        self.add(quiet("Mends done together are one step of the history; Ctrl+Z takes it back."))

    def _done(self, mended: Mended) -> None:
        verdict = VERDICTS[mended.outcome]
        who = mended.body if mended.body == mended.product or not mended.product else mended.product
        text = f"{who}: {mended.outcome}; {mended.why}"
        card = FindingCard(
            LedgerGroup(
                "", verdict, mended.title, text, figures_line(mended), frozenset({mended.product_id}),
                frozenset(),
            )
        )  # fmt: skip
        card.opened.connect(self.opened)
        self.add(card)

    def _card(self, verdict: str, title: str, text: str, note: str) -> FindingCard:
        card = FindingCard(LedgerGroup("", verdict, title, text, note, frozenset(), frozenset()))
        self.add(card)
        return card
