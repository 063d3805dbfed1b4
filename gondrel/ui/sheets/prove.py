"""The Prove sheet: the verdict, the worst figures, and what did not come across."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QSize, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFileDialog, QGridLayout, QLabel, QPushButton, QWidget

from gondrel.core.reports.figures import relative, size_of_file
from gondrel.core.reports.other import other_sentences
from gondrel.core.service.messages import Sent
from gondrel.ui.presenters.cells import TITLES, findings_of, never_line, summary, weighed
from gondrel.ui.presenters.findings import known_line
from gondrel.ui.session.session import Session
from gondrel.ui.sheets.base import FindingCard, SheetView
from gondrel.ui.widgets.labels import head, plain, quiet, rule
from gondrel.ui.widgets.marks import draw_mark
from gondrel.ui.widgets.theme import verdict_colour

__all__ = ["ProveSheet"]


class Mark(QWidget):
    """A verdict mark as a widget."""

    def __init__(self, verdict: str, parent: Any = None) -> None:
        super().__init__(parent)
        self.verdict = verdict
        self.setFixedSize(QSize(18, 18))
        self.setAccessibleName(verdict)

    def paintEvent(self, event: QPaintEvent) -> None:
        draw_mark(QPainter(self), self.verdict, QPointF(9, 9), 12)


class ProveSheet(SheetView):
    """What came back, against what was meant."""

    opened = Signal(object)
    send_wanted = Signal()
    report_wanted = Signal()

    def __init__(self, session: Session, parent: Any = None) -> None:
        super().__init__("Prove", session.deferred, parent)
        self.session = session
        self.thing = ""
        self.main = self.add_main("Send this model")
        self.main.clicked.connect(self._main)
        self.again = QPushButton("Send again")
        self.again.clicked.connect(self.send_wanted)
        self.foot.addWidget(self.again)
        self.against = QPushButton("Prove against a returned file\u2026")
        self.against.clicked.connect(self._against)
        self.foot.addWidget(self.against)
        session.addressing.changed.connect(self.later)
        session.sent_changed.connect(self.later)
        session.settings.changed.connect(self.later)
        session.checking.changed.connect(self.later)

    def _main(self) -> None:
        if self.session.sent is None:
            self.send_wanted.emit()
        else:
            self.report_wanted.emit()

    def _against(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Prove against a returned file")
        if path:
            self.session.addressing.prove_returned(path)

    def _of_the_card(self) -> None:
        """What the file that came back tells of the recipient's card."""
        card, why = self.session.addressing.proposal()
        if card is None or not why:
            return
        self.add(rule())
        self.add(head(f"The card of {card.name}"))
        for line in why:
            self.add(quiet(f"{line[:1].upper()}{line[1:]}"))
        self.learn = QPushButton("Write it onto the card")
        self.learn.clicked.connect(self.session.addressing.learn)
        self.add(self.learn)

    def show_thing(self, thing: str) -> None:
        """Show the items of one ledger cell, or all losses."""
        self.thing = thing
        self.later()

    def refresh(self) -> None:
        """Show the session's last proof."""
        self.clear()
        sent = self.session.sent
        self.again.setVisible(sent is not None)
        self.against.setVisible(self.session.model is not None)
        self.main.setText("Save report" if sent else "Go to Send")
        if sent is None:
            self.add(
                quiet(
                    "Nothing was sent yet. After a send the written file is read back raw "
                    "and compared here with what was meant, thing by thing."
                )
            )
            self.finish()
            return
        self._file(sent)
        self.add(rule())
        self._figures(sent)
        self.add(rule())
        never = never_line(sent.proof)
        if never and not self.thing:
            card = sent.returned.provenance.file if sent.returned.provenance else None
            self.add(head(f"{card.label if card is not None else 'The file'} holds none of"))
            self.add(quiet(never[:1].upper() + never[1:] + "; announced before sending."))
            self.add(rule())
        groups = findings_of(sent.proof, None, self.thing)
        if self.thing:
            self.add(head(TITLES[self.thing]))
        elif groups:
            self.add(head("What did not come across"))
        for finding in groups:
            shown = FindingCard(finding)
            shown.opened.connect(self.opened)
            self.add(shown)
        if not groups:
            self.add(quiet("Every item of this model came back as it was."))
        self._of_the_card()
        self._method(sent)
        self.finish()

    def _file(self, sent: Sent) -> None:
        verdict, sentence = summary(sent.proof)
        line = QLabel(sentence)
        line.setStyleSheet(f"color: {verdict_colour(verdict)}; font-weight: 500;")
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.addWidget(Mark(verdict), 0, 0)
        grid.addWidget(line, 0, 1)
        grid.setColumnStretch(1, 1)
        self.column.addLayout(grid)
        name = plain(sent.path.rsplit("/", 1)[-1])
        name.setProperty("role", "name")
        self.add(name)
        card = sent.returned.provenance.file if sent.returned.provenance else None
        if card is not None:
            self.add(quiet(f"{card.label} \u00b7 {size_of_file(sent.bytes)} \u00b7 {card.length_unit}"))
        self.add(quiet(known_line(self.session.checking.report)))

    def _figures(self, sent: Sent) -> None:
        self.add(head("Worst figures"))
        proof = sent.proof
        ledger = proof.ledger
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setColumnStretch(0, 1)
        rows = (
            (
                "Largest deviation",
                self.session.figures.deviation(proof.max_deviation),
                weighed(ledger.of("geometry").verdict, ledger.of("geometry").announced),
            ),
            (
                "Volume error, relative",
                relative(proof.max_volume_error),
                weighed(ledger.of("geometry").verdict, ledger.of("geometry").announced),
            ),
            (
                "Placement shift",
                self.session.figures.deviation(proof.max_shift),
                weighed(ledger.of("placement").verdict, ledger.of("placement").announced),
            ),
        )
        for row, (label, value, verdict) in enumerate(rows):
            grid.addWidget(QLabel(label), row, 0)
            figure = QLabel(value)
            figure.setStyleSheet("font-weight: 600;")
            grid.addWidget(figure, row, 1)
            grid.addWidget(Mark(verdict), row, 2)
        self.column.addLayout(grid)

    def _method(self, sent: Sent) -> None:
        self.add(head("How it was compared"))
        self.add(quiet(sent.proof.method[:1].upper() + sent.proof.method[1:] + "."))
        for line in (*sent.proof.witness, *other_sentences(sent.proof.other)):
            self.add(quiet(line))
