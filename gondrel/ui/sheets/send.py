"""The Send sheet: what to send as, the forecast, one button."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.recipients.card import Card
from gondrel.ui.presenters.cells import EXPECTED, TITLES, LedgerGroup, findings_of
from gondrel.ui.session.session import Session
from gondrel.ui.sheets.base import FindingCard, SheetView
from gondrel.ui.sheets.sending_form import SendingForm
from gondrel.ui.widgets.labels import empty_layout, head, quiet, rule

__all__ = ["SendSheet"]

_ENDINGS = {"xt-text": "xt", "xt-binary": "xt", "iges-solid": "iges", "iges-surface": "iges"}


class SendSheet(SheetView):
    """Recipient, format and form, target file and the forecast."""

    opened = Signal(object)
    page_wanted = Signal(str)

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__("Send", session.deferred, parent)
        self.session = session
        self.thing = ""
        self._add_recipient()
        self.form = SendingForm(session)
        self.form.changed.connect(self._name_file)
        session.selection_changed.connect(self._selection)
        self.column.addWidget(self.form)
        self.column.addWidget(rule())
        self.forecast_head = head("Forecast")
        self.column.addWidget(self.forecast_head)
        self._forecast = QWidget()
        self._list = QVBoxLayout(self._forecast)
        self._list.setContentsMargins(0, 0, 0, 0)
        self._list.setSpacing(6)
        self.column.addWidget(self._forecast)
        self.column.addStretch(1)
        self._add_foot()
        session.forecast_changed.connect(self.later)
        session.model_changed.connect(lambda: session.deferred.ask(self._name_file))
        session.tasks.changed.connect(self._progress)

    def _add_recipient(self) -> None:
        self.column.addWidget(head("For"))
        self.recipient = QComboBox()
        self.recipient.setAccessibleName("Who it is for")
        self.cards = QPushButton("Cards\u2026")
        self.cards.clicked.connect(lambda: self.page_wanted.emit("cards"))
        whom = QHBoxLayout()
        whom.addWidget(self.recipient, 1)
        whom.addWidget(self.cards)
        self.column.addLayout(whom)
        row = QHBoxLayout()
        self.compare, self.rehearse = QPushButton("Compare formats"), QPushButton("Rehearse\u2026")
        self.compare.clicked.connect(lambda: self.page_wanted.emit("formats"))
        self.rehearse.clicked.connect(lambda: self.page_wanted.emit("rehearsal"))
        for button in (self.compare, self.rehearse):
            row.addWidget(button)
        self.column.addLayout(row)
        self.list_cards()
        self.recipient.currentIndexChanged.connect(self._choose_recipient)
        self.session.addressing.cards_changed.connect(self.list_cards)

    def list_cards(self) -> None:
        """Offer the recipient cards there are."""
        chosen = self.session.addressing.card
        self.recipient.blockSignals(True)
        self.recipient.clear()
        self.recipient.addItem("nobody in particular", "")
        for card in self.session.addressing.all_cards():
            self.recipient.addItem(card.name, card.key)
        self.recipient.setCurrentIndex(max(self.recipient.findData(chosen.key if chosen else ""), 0))
        self.recipient.blockSignals(False)

    def _choose_recipient(self) -> None:
        addressing = self.session.addressing
        addressing.choose(str(self.recipient.currentData() or ""))
        self._name_file()

    def _selection(self) -> None:
        """The forecast is of what is selected, where only that is sent."""
        if self.session.choices.scope == "selected" and self.session.selected_products():
            self.session.ask_forecast()

    def _add_foot(self) -> None:
        self.path = QLineEdit()
        self.path.setPlaceholderText("Where to")
        self.path.setAccessibleName("File to write")
        pick = QPushButton("\u2026")
        pick.setFixedWidth(38)
        pick.setToolTip("Choose where to write")
        pick.clicked.connect(self._pick)
        line = QHBoxLayout()
        line.addWidget(self.path, 1)
        line.addWidget(pick)
        self.foot.addWidget(head("File"))
        self.foot.addLayout(line)
        self.replaces = quiet("It takes the place of the file that is there.")
        self.foot.addWidget(self.replaces)
        self.path.textChanged.connect(self._look_at_place)
        self.session.sent_changed.connect(self._look_at_place)
        self._look_at_place()
        self.add_progress(self.session.tasks)
        self.main = self.add_main("Send and prove")
        self.main.clicked.connect(self.send)

    def show_thing(self, thing: str) -> None:
        """Show the forecast of one ledger cell, or what will not simply be carried."""
        self.thing = thing
        self.later()

    def send(self) -> None:
        """Send to the file named in the sheet."""
        if self.path.text().strip():
            self.session.send(str(Path(self.path.text().strip()).expanduser()))

    def _look_at_place(self) -> None:
        """Say that a file is replaced, before it is."""
        text = self.path.text().strip()
        try:
            taken = bool(text) and Path(text).expanduser().exists()
        except (OSError, ValueError, RuntimeError):
            taken = False
        self.replaces.setVisible(taken)

    def _pick(self) -> None:
        chosen = self.form.chosen()
        kinds = f"{chosen.title} (*{chosen.suffix})" if chosen else ""
        path, _ = QFileDialog.getSaveFileName(self, "Send to", self.path.text(), kinds)
        if path:
            self.path.setText(path)

    def _name_file(self) -> None:
        session = self.session
        self.form.refresh(session.addressing.card)
        chosen = self.form.chosen()
        if session.model is None or chosen is None:
            return
        ending = _ENDINGS.get(session.choices.kind, session.choices.kind.rpartition("-")[2])
        source = Path(session.card.path) if session.card else Path.home() / "model"
        folder = source.parent if source.parent.is_dir() else Path.home()
        self.path.setText(str(folder / f"{source.stem}-{ending}{chosen.suffix}"))
        self.main.setText(f"Send as {ending.upper()} and prove")

    def _progress(self) -> None:
        if not self.isVisible():
            self.later()
            return
        busy = self.show_task()
        self.main.setVisible(not busy)
        self.main.setEnabled(self.session.model is not None)

    def refresh(self) -> None:
        """Show the choices and the forecast."""
        self._progress()
        empty_layout(self._list)
        if self.session.forecast is None:
            self._list.addWidget(quiet("Receive a model first; the forecast is made from it."))
            return
        card = self.session.addressing.card
        groups = [_quieter(g, card) for g in findings_of(None, self.session.forecast, self.thing)]
        self.forecast_head.setText(f"Forecast: {TITLES[self.thing]}".upper() if self.thing else "FORECAST")
        if not groups:
            self._list.addWidget(quiet("Everything this model has will be carried."))
        if card is not None:
            self._list.addWidget(quiet(f"As {card.name} have it, by their card."))
        for finding in groups:
            made = FindingCard(finding)
            made.opened.connect(self.opened)
            self._list.addWidget(made)
        for remark in () if self.thing else self.session.forecast.remarks:
            self._list.addWidget(quiet(remark))
        self._name_file()


def _quieter(group: LedgerGroup, card: Card | None) -> LedgerGroup:
    """A finding told quietly where it does not matter to the recipient."""
    if card is None or group.thing not in card.indifferent or EXPECTED in group.verdict:
        return group
    note = f"{group.note}; it does not matter to them" if group.note else "it does not matter to them"
    return replace(group, verdict=f"{group.verdict}{EXPECTED}", note=note)
