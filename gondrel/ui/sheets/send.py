"""The Send sheet: what to send as, the forecast, one button."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.model import BodyKind
from gondrel.core.recipients.card import Card
from gondrel.core.service.messages import TargetChoice
from gondrel.ui.presenters.cells import EXPECTED, TITLES, LedgerGroup, findings_of
from gondrel.ui.session.session import Session
from gondrel.ui.sheets.base import FindingCard, SheetView
from gondrel.ui.sheets.mesh_options import MeshOptions
from gondrel.ui.widgets.labels import empty_layout, head, quiet, rule

__all__ = ["SendSheet"]

_ENDINGS = {"xt-text": "xt", "xt-binary": "xt", "iges-solid": "iges", "iges-surface": "iges"}
_FORMS = (("structure", "with components"), ("placed", "placed bodies"))
_UNITS = (("mm", "millimetre"), ("inch", "inch"), ("m", "metre"))


class SendSheet(SheetView):
    """Format, unit, target file and the forecast."""

    opened = Signal(object)
    page_wanted = Signal(str)

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__("Send", session.deferred, parent)
        self.session = session
        self.thing = ""
        self.radios: dict[str, QRadioButton] = {}
        self.notes: dict[str, QLabel] = {}
        self._choices = QWidget()
        QVBoxLayout(self._choices).setContentsMargins(0, 0, 0, 0)
        self.group = QButtonGroup(self)
        self.unit = QComboBox()
        for key, text in _UNITS:
            self.unit.addItem(text, key)
        self.unit.currentIndexChanged.connect(self._choose)
        self._add_recipient()
        self.column.addWidget(head("Send as"))
        self.column.addWidget(self._choices)
        self._add_scope()
        self._add_unit()
        self._add_form()
        self.options = MeshOptions()
        self.options.chosen.connect(session.choose_option)
        self.column.addWidget(self.options)
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
        session.forecast_changed.connect(self._offer)
        session.forecast_changed.connect(self.later)
        session.model_changed.connect(self._name_file)
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
        card = addressing.card
        if card is not None and card.reads.kinds and self.session.kind not in card.reads.kinds:
            radio = self.radios.get(card.reads.kinds[0])
            if radio is not None:
                radio.setChecked(True)
                self._choose()

    def _add_scope(self) -> None:
        line = QHBoxLayout()
        label = QLabel("What")
        label.setProperty("role", "quiet")
        line.addWidget(label)
        line.addStretch(1)
        self.scope = QComboBox()
        self.scope.setAccessibleName("What is sent")
        self.scope.setMinimumWidth(130)
        self.scope.addItem("everything", False)
        self.scope.addItem("what is selected", True)
        self.scope.currentIndexChanged.connect(
            lambda: self.session.send_only_selected(bool(self.scope.currentData()))
        )
        self.session.selection_changed.connect(self._selection)
        line.addWidget(self.scope)
        self.column.addLayout(line)

    def _selection(self) -> None:
        """The forecast is of what is selected, where only that is sent."""
        if self.session.only_selected and self.session.selected_products():
            self.session.ask_forecast()

    def _add_unit(self) -> None:
        line = QHBoxLayout()
        label = QLabel("Length unit")
        label.setProperty("role", "quiet")
        line.addWidget(label)
        line.addStretch(1)
        self.unit.setMinimumWidth(130)
        line.addWidget(self.unit)
        self.column.addLayout(line)

    def _add_form(self) -> None:
        self.form_row = QWidget()
        line = QHBoxLayout(self.form_row)
        line.setContentsMargins(0, 0, 0, 0)
        label = QLabel("Assembly")
        label.setProperty("role", "quiet")
        line.addWidget(label)
        line.addStretch(1)
        self.form = QComboBox()
        self.form.setMinimumWidth(130)
        self.form.setAccessibleName("How the assembly goes")
        for key, text in _FORMS:
            self.form.addItem(text, key)
        self.form.currentIndexChanged.connect(self._choose)
        line.addWidget(self.form)
        self.form_row.hide()
        self.column.addWidget(self.form_row)

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
        chosen = self._target()
        kinds = f"{chosen.title} (*{chosen.suffix})" if chosen else ""
        path, _ = QFileDialog.getSaveFileName(self, "Send to", self.path.text(), kinds)
        if path:
            self.path.setText(path)

    def _target(self) -> TargetChoice | None:
        return next((t for t in self.session.targets if t.kind == self.session.kind), None)

    def _choose(self) -> None:
        kind = next((k for k, r in self.radios.items() if r.isChecked()), self.session.kind)
        unit = str(self.unit.currentData()) if self.unit.isEnabled() else self.session.unit
        self.session.choose_target(kind, unit, str(self.form.currentData()))
        self._name_file()

    def _name_file(self) -> None:
        session = self.session
        if session.model is None:
            return
        chosen = self._target()
        if chosen is None:
            return
        ending = _ENDINGS.get(session.kind, session.kind.rpartition("-")[2])
        source = Path(session.card.path) if session.card else Path.home() / "model"
        folder = source.parent if source.parent.is_dir() else Path.home()
        self.path.setText(str(folder / f"{source.stem}-{ending}{chosen.suffix}"))
        self.main.setText(f"Send as {ending.upper()} and prove")
        self.form_row.setVisible(not chosen.is_mesh)
        meshes = any(body.kind is BodyKind.MESH for _, body in session.model.bodies())
        self.options.show_for(is_mesh=chosen.is_mesh, has_meshes=meshes)
        for kind, note in self.notes.items():
            note.setVisible(kind == session.kind)
        fixed = chosen.unit
        self.unit.setEnabled(not fixed)
        self.unit.setToolTip("The format knows only this unit" if fixed else "")
        self.unit.blockSignals(True)
        self.unit.setCurrentIndex(self.unit.findData(fixed or session.unit))
        self.unit.blockSignals(False)

    def _progress(self) -> None:
        if not self.isVisible():
            self.later()
            return
        busy = self.show_task()
        self.main.setVisible(not busy)
        self.main.setEnabled(self.session.model is not None)

    def _offer(self) -> None:
        """Add the choices that are not offered yet."""
        layout = self._choices.layout()
        assert layout is not None
        for choice in self.session.targets:
            if choice.kind not in self.radios:
                radio = QRadioButton(choice.title)
                radio.setChecked(choice.kind == self.session.kind)
                radio.clicked.connect(self._choose)
                self.group.addButton(radio)
                self.radios[choice.kind] = radio
                layout.addWidget(radio)
                note = quiet(choice.note)
                note.setContentsMargins(24, 0, 0, 4)
                note.setProperty("role", "note")
                self.notes[choice.kind] = note
                layout.addWidget(note)
        for kind, note in self.notes.items():
            note.setVisible(kind == self.session.kind)

    def refresh(self) -> None:
        """Show the choices and the forecast."""
        self._progress()
        self._offer()
        empty_layout(self._list)
        if self.session.forecast is None:
            self._list.addWidget(quiet("Receive a model first; the forecast is made from it."))
            return
        card = self.session.addressing.card
        readable = card.reads.kinds if card is not None else ()
        for kind, radio in self.radios.items():
            radio.setVisible(not readable or kind in readable or radio.isChecked())
        groups = [_quieter(g, card) for g in findings_of(None, self.session.forecast, self.thing)]
        self.forecast_head.setText(f"Forecast: {TITLES[self.thing]}".upper() if self.thing else "FORECAST")
        if not groups:
            self._list.addWidget(quiet("Everything this model has will be carried."))
        if card is not None:
            self._list.addWidget(quiet(f"As it is at {card.name}'s, by their card."))
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
