"""The Check sheet: what is not sound, by kind; choosing one flies to it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import fields
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QListWidget, QListWidgetItem, QPushButton

from gondrel.core.model.findings import CheckLimits, Finding, Severity
from gondrel.core.reports.findings import Kind
from gondrel.core.service.settings import limits_toward
from gondrel.ui.presenters.cells import LedgerGroup
from gondrel.ui.presenters.findings import (
    SEVERITY_VERDICT,
    kind_line,
    kinds_shown,
    line_of,
    parts_of,
    summary_of,
)
from gondrel.ui.session.session import Session
from gondrel.ui.sheets.base import FindingCard, SheetView
from gondrel.ui.sheets.limits import LimitsForm
from gondrel.ui.widgets.labels import head, quiet, rule

__all__ = ["CheckSheet"]

_CARD = "card"
_LIMITS = (("", "0.01 mm"), ("0.001", "0.001 mm"), ("0.05", "0.05 mm"), ("0.1", "0.1 mm"))
_MOST_LISTED, _HIGHEST = 200, 162
_ROLE = Qt.ItemDataRole.UserRole
_SIGNS = {Severity.FAULT: "\u25c6", Severity.DOUBT: "\u25d0", None: "\u2713"}
"""Marks of a part by the worst that was found on it, as those of the verdicts."""


class CheckSheet(SheetView):
    """Checks run here and what they found."""

    chosen = Signal(object)
    part_chosen = Signal(str)
    mend_wanted = Signal(object)
    save_wanted = Signal(str)
    next_wanted = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__("Check", session.deferred, parent)
        self.session = session
        self.opened = ""
        self.shown = dict.fromkeys(Severity, True)
        self.pills: dict[Severity, QPushButton] = {}
        self.lists: dict[str, QListWidget] = {}
        self.parts: QListWidget | None = None
        self.one = QPushButton()
        self.limit = QComboBox()
        self.limit.setAccessibleName("What still counts as sound")
        for value, text in _LIMITS:
            self.limit.addItem(text, value)
        self.limit.currentIndexChanged.connect(self._limit)
        self.form = LimitsForm()
        self.form.edited.connect(self._form)
        self.more = QPushButton("All limits")
        self.more.setProperty("role", "pill")
        self.more.setCheckable(True)
        self.more.toggled.connect(self.form.setVisible)
        self.form.hide()
        self.add_progress(session.tasks)
        self.main = self.add_main("Check")
        self.main.clicked.connect(self._main)
        self.save = QPushButton("Save findings\u2026")
        self.save.clicked.connect(self.save_findings)
        self.foot.addWidget(self.save)
        session.addressing.changed.connect(self._offer_card)
        session.checking.changed.connect(self.later)
        session.model_changed.connect(self.later)
        session.tasks.changed.connect(self._progress)

    def _main(self) -> None:
        if self.session.checking.report is None:
            self.session.checking.check()
        else:
            self.next_wanted.emit()

    def _limit(self) -> None:
        value = str(self.limit.currentData())
        values = dict.fromkeys(("gap", "short", "tolerance"), value) if value else {}
        if value == _CARD:
            card, usual = self.session.addressing.card, CheckLimits()
            own = limits_toward(card)
            values = {f.name: f"{getattr(own, f.name):g}" for f in fields(CheckLimits)
                      if getattr(own, f.name) != getattr(usual, f.name)}  # fmt: skip
        self.form.show_values(values)
        self._form(values)

    def _offer_card(self) -> None:
        """Offer the limits on the card of whoever it is for, and take them where none were chosen."""
        card, place = self.session.addressing.card, self.limit.findData(_CARD)
        if card is None or limits_toward(card) == CheckLimits():
            if place >= 0:
                self.limit.removeItem(place)
            return
        text = f"as {card.name} take it"
        if place < 0:
            self.limit.addItem(text, _CARD)
            place = self.limit.findData(_CARD)
            if self.limit.currentIndex() == 0:
                self.limit.setCurrentIndex(place)
        elif self.limit.itemText(place) != text:
            self.limit.setItemText(place, text)
            if self.limit.currentIndex() == place:
                self._limit()

    def _form(self, values: dict[str, str]) -> None:
        self.session.checking.values = values
        if self.session.checking.report is not None:
            self.session.checking.check()

    def _progress(self) -> None:
        if not self.isVisible():
            self.later()
            return
        busy = self.show_task()
        self.main.setVisible(not busy)
        self.main.setEnabled(self.session.model is not None)
        self.save.setVisible(not busy and self.session.checking.report is not None)

    def refresh(self) -> None:
        """Show what was found, or what checking does."""
        session, report = self.session, self.session.checking.report
        for kept in (self.limit, self.more, self.form):
            kept.setParent(None)
        self.clear()
        self.lists.clear()
        mends = report is not None and any(not m.is_asked for m in report.mends)
        onward = "Go on to Mend" if mends else "Go on to Send"
        self.main.setText(onward if report is not None else "Check this model")
        row = QHBoxLayout()
        row.addWidget(quiet("Sound within"))
        row.addWidget(self.limit)
        row.addWidget(self.more)
        self.column.addLayout(row)
        self.add(self.form)
        self.form.setVisible(self.more.isChecked())
        if report is None or session.model is None:
            text = (
                "Looks at every body as it was received: holes in skins, gaps, tiny edges and faces, "
                "splines, and at structure and names. Nothing is changed. Parts used often are checked "
                "once, and only what changed is checked again."
            )
            self.add(quiet(text if session.model is not None else "Receive a model first."))
        else:
            self._found()
        self.finish()
        self._progress()

    def _found(self) -> None:
        session, report = self.session, self.session.checking.report
        assert report is not None and session.model is not None
        self.add_facts(summary_of(report, session.model))
        self._filters()
        self.add(rule())
        wanted = frozenset(s for s, on in self.shown.items() if on)
        kinds = kinds_shown(report, session.model, wanted, frozenset(session.selected_products()))
        labels = {p.id: p.label for p in session.model.products}
        if not report.findings:
            self._card("carried", "Clean", "Nothing was found on what was examined", "")
        elif not kinds:
            self.add(quiet("Nothing of this kind, or nothing on what is selected."))
        for kind in kinds:
            self._kind(kind, labels)
        for code, why in report.failed[:10]:
            self._card("altered", f"{code} could not run", why, "")
        self._parts()

    def _parts(self) -> None:
        """Every part with how it came out; a click on one selects it, which filters the list above."""
        session, report = self.session, self.session.checking.report
        assert report is not None and session.model is not None
        lines = parts_of(report, session.model)
        if len(lines) < 2:
            return
        self.add(head("Part by part"))
        listed = QListWidget()
        listed.setAccessibleName("Parts and how they came out")
        listed.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for line in lines[:_MOST_LISTED]:
            sign = _SIGNS[line.severity]
            item = QListWidgetItem(f"{sign} {line.text}")
            item.setToolTip(line.text)
            item.setData(_ROLE, line.product)
            listed.addItem(item)
        listed.setFixedHeight(min(len(lines), 8) * 18 + 10)
        listed.itemClicked.connect(lambda item: self.part_chosen.emit(str(item.data(_ROLE))))
        self.parts = listed
        self.add(listed)

    def _filters(self) -> None:
        report = self.session.checking.report
        assert report is not None
        row = QHBoxLayout()
        row.setSpacing(4)
        for severity, word in (
            (Severity.FAULT, "Faults"), (Severity.DOUBT, "Doubts"), (Severity.NOTE, "Notes"),
        ):  # fmt: skip
            pill = QPushButton(f"{word} {report.count(severity)}")
            pill.setProperty("role", "pill")
            pill.setCheckable(True)
            pill.setChecked(self.shown[severity])
            pill.toggled.connect(lambda on, s=severity: self._show(s, on))
            self.pills[severity] = pill
            row.addWidget(pill)
        row.addStretch(1)
        self.column.addLayout(row)

    def _show(self, severity: Severity, on: bool) -> None:
        self.shown[severity] = on
        self.later()

    def _card(self, verdict: str, title: str, text: str, note: str) -> FindingCard:
        card = FindingCard(LedgerGroup("", verdict, title, text, note, frozenset(), frozenset()))
        self.add(card)
        return card

    def _kind(self, kind: Kind, labels: dict[str, str]) -> None:
        verdict = SEVERITY_VERDICT[kind.severity.value]
        help_ = self.session.checking.helps.get(kind.code)
        is_open = kind.code == self.opened
        note = f"{help_.why} {help_.cure}".strip() if help_ is not None and is_open else ""
        card = self._card(verdict, f"{kind.title}  ({kind.code})", kind_line(kind), note)
        card.opened.connect(lambda _, code=kind.code: self._open(code))
        if not is_open:
            return
        listed = QListWidget()
        listed.setAccessibleName(kind.title)
        texts = [line_of(finding, labels) for finding in kind.findings[:_MOST_LISTED]]
        for text, finding in zip(texts, kind.findings, strict=False):
            item = QListWidgetItem(text)
            item.setToolTip(text)
            item.setData(_ROLE, finding)
            listed.addItem(item)
        listed.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        listed.setWordWrap(True)  # the figure stands at the end
        listed.setSpacing(1)
        listed.setFixedHeight(min(_height_of(texts, listed, self.width()), _HIGHEST) + 8)
        listed.currentItemChanged.connect(lambda item, _: self._choose(item))
        self.lists[kind.code] = listed
        self.add(listed)
        self.one = QPushButton("Mend only this one\u2026")
        self.one.clicked.connect(lambda: self.mend_wanted.emit(listed.currentItem().data(_ROLE)))
        self.one.hide()
        self.add(self.one)
        if len(kind.findings) > _MOST_LISTED:
            self.add(quiet(f"and {len(kind.findings) - _MOST_LISTED} more; save the findings to see all"))

    def _open(self, code: str) -> None:
        self.opened = "" if self.opened == code else code
        self.later()

    def _choose(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            finding: Finding = item.data(_ROLE)
            self.chosen.emit(finding)
            report = self.session.checking.report
            self.one.setVisible(report is not None and report.single_mend(finding) is not None)

    def save_findings(self) -> None:
        """Ask where to, and have the findings saved: a page for people, or JSON for programs."""
        kinds = {"HTML page (*.html)": ".html", "PDF (*.pdf)": ".pdf", "JSON (*.json)": ".json"}
        proposal = f"{self.session.crossing.name} findings.html"
        path, kind = QFileDialog.getSaveFileName(self, "Save findings", proposal, ";;".join(kinds))
        if path:
            known = Path(path).suffix in kinds.values()
            self.save_wanted.emit(path if known else path + kinds.get(kind, ".html"))


def _height_of(texts: Iterable[str], listed: QListWidget, width: int) -> int:
    """About how high texts stand in a list on a sheet of a width, px."""
    listed.ensurePolished()
    room = max(width - 60, 120)
    return sum(22 + 18 * (listed.fontMetrics().horizontalAdvance(text) // room) for text in texts)
