"""The main window: route band, manifest, stage, station sheet, ledger."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence
from PySide6.QtWidgets import (
    QFileDialog,
    QLabel,
    QMainWindow,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.errors import GondrelError
from gondrel.core.model.store import write_whole
from gondrel.core.reports.contract import proof_object
from gondrel.core.service.crossing import SUFFIX
from gondrel.jobs.messages import Job
from gondrel.ui.ledger import LedgerView
from gondrel.ui.manifest import ManifestView
from gondrel.ui.presenters.cells import Finding, forecast_cells, proof_cells, summary
from gondrel.ui.presenters.text import subtitle
from gondrel.ui.route_band import RouteBand
from gondrel.ui.session import STATIONS, Session, state_folder
from gondrel.ui.sheets.prove import ProveSheet
from gondrel.ui.sheets.quiet import ArrangeSheet, QuietSheet
from gondrel.ui.sheets.receive import ReceiveSheet
from gondrel.ui.sheets.send import SendSheet

__all__ = ["MainWindow"]

_CHECK = (
    "Checks come with a later version. What reading itself found is on the Receive sheet: "
    "bodies that could not be made, widened tolerances, references that lead nowhere."
)
_MEND = (
    "Mends come with a later version. Until then nothing is ever repaired: what you send is "
    "what you received."
)
_KEYS = (
    "1 to 6: go to a station.  F: fit.  H: home view.  Del: hide.  Hold Space: swap received and "
    "returned.  Ctrl+O: open.  Ctrl+S: save.  Ctrl+Z, Ctrl+Y: undo, redo.  Ctrl+F: filter.  "
    "Drag: turn, with Shift or the middle button: shift; wheel: zoom.  Esc: select nothing."
)


_NOTICE_MS = 7000


class MainWindow(QMainWindow):
    """One crossing in one window."""

    def __init__(self) -> None:
        super().__init__()
        self.session = Session(self)
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.band = RouteBand()
        self.ledger = LedgerView()
        self.manifest = ManifestView(self.session)
        self.stage_slot = QStackedWidget()
        self.stage: Any = None
        self.sheets = QStackedWidget()
        self.receive = ReceiveSheet(self.session)
        self.send_sheet = SendSheet(self.session)
        self.prove = ProveSheet(self.session)
        for sheet in (
            self.receive,
            QuietSheet("Check", _CHECK),
            QuietSheet("Mend", _MEND),
            ArrangeSheet(self.session),
            self.send_sheet,
            self.prove,
        ):
            self.sheets.addWidget(sheet)
        self.notice = QLabel("", self)
        self.notice.setObjectName("notice")
        self.notice.setWordWrap(True)
        self.notice.hide()
        self._notice_ends = QTimer(self, singleShot=True, interval=_NOTICE_MS)
        self._notice_ends.timeout.connect(self.notice.hide)
        self._lay_out()
        self._connect()
        self._actions()
        self.refresh()

    def _lay_out(self) -> None:
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.setHandleWidth(1)
        self.split.setChildrenCollapsible(False)
        for widget, width in ((self.manifest, 320), (self.stage_slot, 640), (self.sheets, 320)):
            self.split.addWidget(widget)
            widget.setMinimumWidth(260 if width == 320 else 300)
        self.split.setSizes([320, 640, 320])
        for index, stretch in enumerate((0, 1, 0)):
            self.split.setStretchFactor(index, stretch)
        centre = QWidget()
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.band)
        column.addWidget(self.split, 1)
        column.addWidget(self.ledger)
        self.setCentralWidget(centre)

    def add_stage(self) -> None:
        """Make the picture; kept apart so that the window is seen before VTK is loaded."""
        if self.stage is not None:
            return
        from gondrel.ui.stage import StageView

        self.stage = StageView(self.session)
        self.stage.open_wanted.connect(self.choose_file)
        self.stage.demo_wanted.connect(self.open_demo)
        self.stage_slot.addWidget(self.stage)
        self.stage_slot.setCurrentWidget(self.stage)

    def _connect(self) -> None:
        session = self.session
        self.band.chosen.connect(session.go)
        self.band.help_wanted.connect(lambda: self.say(_KEYS))
        session.station_changed.connect(self._station)
        for signal in (
            session.card_changed,
            session.model_changed,
            session.sent_changed,
            session.forecast_changed,
        ):
            signal.connect(self.refresh)
        session.notice.connect(self.say)
        session.failed.connect(self._failed)
        self.ledger.chosen.connect(self._cell)
        self.receive.open_wanted.connect(self.choose_file)
        self.receive.next_wanted.connect(lambda: session.go(4))
        self.prove.send_wanted.connect(lambda: session.go(4))
        self.prove.report_wanted.connect(self.save_proof)
        self.prove.opened.connect(self._finding)
        self.send_sheet.opened.connect(self._finding)

    def _actions(self) -> None:
        table = [
            ("Open", "Ctrl+O", self.choose_file),
            ("Save", "Ctrl+S", self.save),
            ("Undo", "Ctrl+Z", self.session.undo),
            ("Redo", "Ctrl+Y", self.session.redo),
            ("Filter", "Ctrl+F", self.manifest.filter.setFocus),
            ("Fit", "F", lambda: self.stage and self.stage.fit()),
            ("Home view", "H", lambda: self.stage and self.stage.canvas.set_view("home")),
            ("Hide", "Del", lambda: self.stage and self.stage._hide()),
            ("Select nothing", "Esc", self._clear),
        ]
        for number, name in enumerate(STATIONS):
            table.append((name, str(number + 1), lambda n=number: self.session.go(n)))
        for text, key, act in table:
            action = QAction(text, self)
            action.setShortcut(QKeySequence(key))
            action.triggered.connect(act)
            self.addAction(action)

    def _clear(self) -> None:
        self.session.select(())
        self.session.focus(frozenset())
        self.ledger.set_current("")
        self.prove.show_thing("")

    # --- showing ---------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the session's state in band and ledger."""
        session = self.session
        model, sent = session.model, session.sent
        received = model.provenance.received if model and model.provenance else ""
        reached = 5 if sent else (3 if model else 0)
        badges: dict[int, tuple[int, str]] = {}
        if model is not None and model.notes:
            badges[0] = (len(model.notes), "altered")
        if sent is not None:
            troubled = [e for e in sent.proof.ledger.entries if e.verdict in ("lost", "altered")]
            if troubled:
                badges[5] = (len(troubled), summary(sent.proof)[0])
        card = session.card
        self.band.show_state(
            session.crossing.name, subtitle(card, received), session.station, reached, badges
        )
        self.setWindowTitle(f"{session.crossing.name} \u2013 Gondrel")
        self._show_ledger()

    def _show_ledger(self) -> None:
        session, sent = self.session, self.session.sent
        if sent is not None and session.station in (0, 1, 2, 3, 5):
            cells = proof_cells(sent.proof)
            there = [c for c in cells if not c.is_quiet]
            carried = sum(c.verdict == "carried" for c in there)
            self.ledger.show_cells(
                cells, "Carriage", "received to returned", f"{len(there)} things, {carried} carried"
            )
        elif session.forecast is not None:
            cells = forecast_cells(session.forecast)
            there = [c for c in cells if not c.is_quiet]
            carried = sum(c.verdict == "carried" for c in there)
            self.ledger.show_cells(
                cells,
                "Carriage",
                f"forecast for {session.forecast.target}",
                f"{len(there)} things, {carried} will carry",
            )
        else:
            self.ledger.show_cells([], "Carriage", "what a model carries is counted here", "")

    def _station(self, station: int) -> None:
        self.sheets.setCurrentIndex(station)
        self.ledger.set_current("")
        self.session.focus(frozenset())
        self.refresh()

    def say(self, text: str) -> None:
        """Show a short notice over the stage for a while."""
        self.notice.setText(text)
        width = min(self.stage_slot.width() - 60, self.notice.fontMetrics().horizontalAdvance(text) + 40)
        self.notice.setFixedWidth(max(width, 160))
        self.notice.adjustSize()
        at = self.stage_slot.mapTo(self, QPoint(0, 0))
        x = at.x() + (self.stage_slot.width() - self.notice.width()) // 2
        self.notice.move(x, at.y() + 38)
        self.notice.show()
        self.notice.raise_()
        self._notice_ends.start()

    def _failed(self, error: GondrelError) -> None:
        self.say(str(error))
        self.session.go(0) if self.session.model is None else None

    def _cell(self, thing: str) -> None:
        """Open a ledger cell: its items in the sheet, its products marked everywhere."""
        session = self.session
        self.ledger.set_current(thing)
        if session.sent is not None and session.station not in (4,):
            if thing:
                session.go(5)
                self.ledger.set_current(thing)
            self.prove.show_thing(thing)
            troubled = [
                c
                for c in (session.sent.proof.ledger.of(thing).items if thing else ())
                if c.verdict in ("lost", "altered", "unproved")
            ]
            session.focus(
                frozenset(c.item.products[0] for c in troubled if c.item.products),
                frozenset(c.returned_products[0] for c in troubled if c.returned_products),
            )
        elif session.forecast is not None:
            entries = [e for e in session.forecast.of(thing) if e.fate != "carried"] if thing else []
            session.focus(frozenset(e.item.products[0] for e in entries if e.item.products))

    def _finding(self, finding: Finding | None) -> None:
        if finding is None:
            self.session.focus(frozenset())
        else:
            self.session.focus(finding.products, finding.returned)

    # --- files -----------------------------------------------------------------------------

    def choose_file(self) -> None:
        """Ask for a file and open it."""
        path, _ = QFileDialog.getOpenFileName(
            self, "Receive a file", "", f"Models (*.stp *.step *.p21 *{SUFFIX});;All files (*)"
        )
        if path:
            self.session.open_file(path)

    def open_demo(self) -> None:
        """Make the demo when it is not there yet, then receive it."""
        folder = str(state_folder() / "demo")
        self.session.tasks.run(
            Job("gondrel.demo.make:make_demo", (folder,), doing="making the demo"),
            done=self.session.open_file,
            failed=self._failed,
        )

    def save(self) -> None:
        """Save the crossing, asking where the first time."""
        session = self.session
        path = str(session.path or "")
        if not path:
            proposal = f"{session.crossing.name}{SUFFIX}"
            path, _ = QFileDialog.getSaveFileName(self, "Save crossing", proposal, f"Crossing (*{SUFFIX})")
        if path:
            session.save(Path(path).with_suffix(SUFFIX))

    def save_proof(self) -> None:
        """Save the proof beside the sent file."""
        sent = self.session.sent
        if sent is None:
            return
        path = Path(sent.path).with_suffix(".proof.json")
        try:
            write_whole(path, json.dumps(proof_object(sent.proof), indent=1).encode())
        except GondrelError as error:
            self._failed(error)
            return
        self.say(f"Saved {path}")

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [url.toLocalFile() for url in event.mimeData().urls() if url.isLocalFile()]
        if paths:
            self.session.open_file(paths[0])

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.stage is not None:
            self.stage.close_picture()
        self.session.close()
        super().closeEvent(event)
