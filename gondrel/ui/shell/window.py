"""The main window: route band, manifest, stage, station sheet, ledger."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QMainWindow,
    QMenu,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.errors import GondrelError
from gondrel.core.model import Model
from gondrel.core.model.sought import Sought
from gondrel.core.service.catalogue import model_suffixes
from gondrel.core.service.crossing import SUFFIX
from gondrel.ui.manifest.view import ManifestView
from gondrel.ui.presenters.badges import Badge, check_badge, prove_badge, receive_badge, send_badge
from gondrel.ui.presenters.cells import (
    LedgerGroup,
    empty_cells,
    forecast_cells,
    proof_cells,
)
from gondrel.ui.presenters.rows import chain_of_product
from gondrel.ui.presenters.text import subtitle
from gondrel.ui.session.persistence import state_folder
from gondrel.ui.session.receiving import ADDED, NEW
from gondrel.ui.session.session import Session
from gondrel.ui.session.settings import SettingsStore
from gondrel.ui.session.stations import Station
from gondrel.ui.sheets.arrange import ArrangeSheet
from gondrel.ui.sheets.check import CheckSheet
from gondrel.ui.sheets.mend import MendSheet
from gondrel.ui.sheets.prove import ProveSheet
from gondrel.ui.sheets.receive import ReceiveSheet
from gondrel.ui.sheets.send import SendSheet
from gondrel.ui.shell import reporting
from gondrel.ui.shell.batch_page import BatchPage
from gondrel.ui.shell.command import Command
from gondrel.ui.shell.commands import commands_of
from gondrel.ui.shell.compare_page import ComparePage
from gondrel.ui.shell.draw_page import DrawPage
from gondrel.ui.shell.item_commands import ItemCommands
from gondrel.ui.shell.ledger import LedgerView
from gondrel.ui.shell.measures_page import MeasuresPage
from gondrel.ui.shell.notices import ErrorNotice, Toast, WorkStrip
from gondrel.ui.shell.pages import HistoryDialog, LogDialog, SettingsDialog, ShortcutsDialog
from gondrel.ui.shell.picture_page import PicturePage
from gondrel.ui.shell.recipient_pages import CardsPage, FormatsPage, RehearsalPage, SendingsPage
from gondrel.ui.shell.record_page import RecordPage
from gondrel.ui.shell.register_page import RegisterPage
from gondrel.ui.shell.route_band import RouteBand
from gondrel.ui.shell.search import SearchPanel
from gondrel.ui.shell.sheet_page import SheetPage
from gondrel.ui.shell.table_page import TablePage
from gondrel.ui.shell.targets import targets_of
from gondrel.ui.shell.views_page import ViewsPage

__all__ = ["MainWindow"]

_MODELS = " ".join(f"*{suffix}" for suffix in model_suffixes())
_MENU = (
    "open", "open-choose", "open-beside", "open-folder", "demo", None, "save", "save-as", "report-html",
    "report-pdf", "proof-json", "gather", None, "undo", "redo", "history", "new-product", "table", None,
    "settings", "shortcuts", "log", None, "new-window", "close",
)  # fmt: skip


class MainWindow(QMainWindow):
    """One crossing in one window."""

    closed = Signal()

    def __init__(self, settings: SettingsStore, another: Callable[[], object] = lambda: None) -> None:
        super().__init__()
        self.settings = settings
        self.session = Session(settings, self)
        self._another = another
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.pages: dict[str, QWidget] = {}
        self.band = RouteBand()
        self.ledger = LedgerView()
        self.manifest = ManifestView(self.session)
        self.stage_slot = QStackedWidget()
        self.stage: Any = None
        self.sheets = QStackedWidget()
        self.receive = ReceiveSheet(self.session)
        self.check = CheckSheet(self.session)
        self.mend = MendSheet(self.session)
        self.arrange = ArrangeSheet(self.session)
        self.send_sheet = SendSheet(self.session)
        self.prove = ProveSheet(self.session)
        for sheet in (
            self.receive,
            self.check,
            self.mend,
            self.arrange,
            self.send_sheet,
            self.prove,
        ):
            self.sheets.addWidget(sheet)
        self._lay_out()
        self.toast = Toast(self)
        self.error_notice = ErrorNotice(self)
        self.work = WorkStrip(self.session.tasks, self._progress_on_sheet, self)
        self.search = SearchPanel(self)
        self.items = ItemCommands(self)
        self.commands: list[Command] = []
        self.actions_by_key: dict[str, QAction] = {}
        self._actions()
        self.manifest.use_actions(self.actions_by_key)
        self._connect()
        self._show_history()
        self.refresh()

    def _lay_out(self) -> None:
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.setHandleWidth(5)
        self.split.setChildrenCollapsible(False)
        for widget, least in ((self.manifest, 260), (self.stage_slot, 300), (self.sheets, 260)):
            self.split.addWidget(widget)
            widget.setMinimumWidth(least)
        self.split.setSizes(list(self.settings.now.widths) or [350, 602, 318])
        soon = QTimer(self, singleShot=True, interval=400)
        soon.timeout.connect(lambda: self.settings.change(widths=tuple(self.split.sizes())))
        self.split.splitterMoved.connect(lambda *_: soon.start())
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

    def _progress_on_sheet(self) -> int:
        """The number of the job that the sheet shows the progress of, 0 for none."""
        return int(getattr(self.sheets.currentWidget(), "told", 0))

    def add_stage(self) -> None:
        """Make the picture; kept apart so that the window is seen before VTK is loaded."""
        if self.stage is not None:
            return
        from gondrel.ui.stage.view import StageView

        self.stage = StageView(self.session)
        self.stage.open_wanted.connect(self.choose_file)
        self.stage.demo_wanted.connect(self.open_demo)
        self.stage.use_actions(self.actions_by_key)
        self.stage_slot.addWidget(self.stage)
        self.stage_slot.setCurrentWidget(self.stage)
        for notice in (self.toast, self.error_notice, self.work):
            notice.raise_()

    def _connect(self) -> None:
        session = self.session
        self.band.chosen.connect(session.go)
        self.band.find_wanted.connect(self.open_search)
        self.band.menu_wanted.connect(self._open_menu)
        session.station_changed.connect(self._station)
        for signal in (
            session.card_changed,
            session.model_changed,
            session.sent_changed,
            session.forecast_changed,
            session.facts_changed,
        ):
            signal.connect(self.refresh_soon)
        session.notice.connect(self.say)
        session.failed.connect(self._failed)
        self.settings.changed.connect(self._settings_changed)
        self.ledger.chosen.connect(self._cell)
        self.receive.open_wanted.connect(self.choose_file)
        self.receive.opened.connect(self._finding)
        self.check.next_wanted.connect(self._after_check)
        self.mend.next_wanted.connect(lambda: session.go(Station.SEND))
        self.check.chosen.connect(self._point_at)
        self.check.mend_wanted.connect(self.mend.look_at_one)
        self.check.part_chosen.connect(lambda product: session.select((chain_of_product(product),)))
        self.check.save_wanted.connect(lambda path: reporting.save_findings(self, Path(path)))
        self.mend.opened.connect(self._finding)
        session.checking.changed.connect(self.refresh_soon)
        self.receive.records_wanted.connect(self.show_records)
        self.receive.load_listed.connect(
            lambda: session.loading_shapes.load_with(self.manifest.rows.listed())
        )
        self.receive.next_wanted.connect(lambda: session.go(Station.SEND))
        self.prove.send_wanted.connect(lambda: session.go(Station.SEND))
        self.prove.report_wanted.connect(self.save_html)
        self.prove.opened.connect(self._finding)
        self.send_sheet.opened.connect(self._finding)
        self.send_sheet.page_wanted.connect(self.show_page)
        session.drafting.wanted.connect(lambda: self.show_page("drawing"))
        for changed in (self.work.changed, session.sectioning.changed, session.exploding.changed):
            changed.connect(self._place_notices)
        session.model_changed.connect(
            lambda: self.work.set_quiet(session.model is None or session.is_preview)
        )

    def _actions(self) -> None:
        self.commands = commands_of(self)
        for command in self.commands:
            action = QAction(command.title, self)
            action.setShortcuts([QKeySequence(key) for key in command.keys])
            action.triggered.connect(lambda _=False, run=command.run: run())
            self.actions_by_key[command.key] = action
            self.addAction(action)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Space, held where nothing else takes it, swaps the two sides in place."""
        if event.key() == Qt.Key.Key_Space and self.stage is not None and not event.isAutoRepeat():
            self.stage.hold_swap(True)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and self.stage is not None and not event.isAutoRepeat():
            self.stage.hold_swap(False)
        else:
            super().keyReleaseEvent(event)

    # --- showing ---------------------------------------------------------------------------

    def refresh_soon(self) -> None:
        """Show what can be done now, and the rest in a turn of its own."""
        self._show_history()
        self.session.deferred.ask(self.refresh)

    def _show_history(self) -> None:
        history = self.session.crossing.history
        self.actions_by_key["undo"].setEnabled(history.can_undo)
        self.actions_by_key["redo"].setEnabled(history.can_redo)

    def refresh(self) -> None:
        """Show the session's state in band and ledger."""
        session = self.session
        model, sent = session.model, session.sent
        received = model.provenance.received if model and model.provenance else ""
        reached = Station.PROVE if sent else (Station.ARRANGE if model else Station.RECEIVE)
        worn = {
            Station.RECEIVE: receive_badge(model, session.problems),
            Station.CHECK: check_badge(session.checking.report),
            Station.SEND: send_badge(session.forecast, session.addressing.indifferent)
            if sent is None
            else None,
            Station.PROVE: prove_badge(sent),
        }
        badges: dict[int, Badge] = {station: badge for station, badge in worn.items() if badge is not None}
        card = model.provenance.file if model and model.provenance else session.card
        name = session.crossing.name
        self.band.show_state(name, subtitle(card, received), session.station, reached, badges)
        self.setWindowTitle(f"{'* ' if session.persistence.is_dirty else ''}{name} \u2013 Gondrel")
        self._show_ledger()

    def _show_ledger(self) -> None:
        session, sent = self.session, self.session.sent
        if sent is not None and session.station != Station.SEND:
            cells = proof_cells(sent.proof)
            there = [c for c in cells if not c.is_quiet]
            carried = sum(c.verdict == "carried" for c in there)
            self.ledger.show_cells(
                cells, "Carriage", "received to returned", f"{len(there)} things, {carried} carried"
            )
        elif session.forecast is not None:
            cells = forecast_cells(session.forecast, session.addressing.indifferent)
            there = [c for c in cells if not c.is_quiet]
            carried = sum(c.verdict == "carried" for c in there)
            self.ledger.show_cells(
                cells,
                "Carriage",
                f"forecast for {session.forecast.target}",
                f"{len(there)} things, {carried} will carry",
            )
        else:
            told = "what a model carries is counted here"
            if session.is_preview:
                told = "no shape is read yet: nothing is carried"
            self.ledger.show_cells(empty_cells(), "Carriage", told, "")

    def _station(self, station: int) -> None:
        if self.stage is not None:
            self.stage.pointer.forget()
        self.sheets.setCurrentIndex(station)
        self.ledger.set_current("")
        self.session.focus(frozenset())
        self.refresh_soon()

    def _settings_changed(self) -> None:
        self.ledger.fit_type()
        if self.stage is not None:
            self.stage.refresh_theme()
        for widget in (self.band, self.ledger, self.manifest):
            widget.update()
        self.session.deferred.ask(self.session.ask_forecast)

    def clear(self) -> None:
        """Select nothing, mark nothing, close what lies over the stage."""
        self.search.hide()
        self.error_notice.hide()
        self.session.select(())
        self.session.focus(frozenset())
        self.ledger.set_current("")
        self.prove.show_thing("")

    def say(self, text: str) -> None:
        """Show a short notice over the stage for a while."""
        self.toast.say(text)
        self._place_notices()
        self.refresh_soon()

    def _failed(self, error: GondrelError) -> None:
        self.error_notice.tell(error)
        self._place_notices()

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self._place_notices()
        self.search.hide()

    def _place_notices(self) -> None:
        at = self.stage_slot.mapTo(self, QPoint(0, 0))
        width = self.stage_slot.width()
        y = at.y() + 42
        for notice in (self.error_notice, self.toast):
            notice.move(at.x() + (width - notice.width()) // 2, y)
            if notice.isVisible():
                y += notice.height() + 8
        bottom = at.y() + self.stage_slot.height() - self.work.height() - 78
        bottom -= self.stage.looking.height if self.stage is not None else 0
        self.work.move(at.x() + (width - self.work.width()) // 2, bottom)

    def _cell(self, thing: str) -> None:
        """Open a ledger cell: its items in the sheet, its products marked everywhere."""
        session = self.session
        if session.sent is not None and session.station != Station.SEND:
            if thing:
                session.go(Station.PROVE)
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
            if thing:
                session.go(Station.SEND)
            self.send_sheet.show_thing(thing)
            entries = [e for e in session.forecast.of(thing) if e.fate != "carried"] if thing else []
            session.focus(frozenset(e.item.products[0] for e in entries if e.item.products))
        self.ledger.set_current(thing)

    def _after_check(self) -> None:
        """Go on to Mend where there is something to mend without being asked, else to Send."""
        report = self.session.checking.report
        mendable = report is not None and any(not m.is_asked for m in report.mends)
        self.session.go(Station.MEND if mendable else Station.SEND)

    def _point_at(self, finding: Any) -> None:
        """Fly to what a check found and point at it; the rest fades."""
        self.session.focus(frozenset({finding.product}) if finding.product else frozenset())
        if self.stage is not None:
            self.stage.point_at(finding)

    def _finding(self, finding: LedgerGroup | None) -> None:
        if finding is None:
            self.session.focus(frozenset())
        else:
            self.session.focus(finding.products, finding.returned)

    # --- pages and search ------------------------------------------------------------------

    def over(self) -> QWidget:
        """The widget that dialogs stand over: the window."""
        return self

    def open_search(self) -> None:
        """Open the search over commands, items and settings."""
        self.search.open(targets_of(self))

    def _open_menu(self) -> None:
        menu = QMenu(self)
        for key in _MENU:
            if key is None:
                menu.addSeparator()
            else:
                menu.addAction(self.actions_by_key[key])
        recent = [p for p in self.settings.now.recent if Path(p).is_file()]
        if recent:
            below = menu.addMenu("Recent")
            for path in recent:
                action = below.addAction(Path(path).name)
                action.triggered.connect(lambda _=False, p=path: self.session.open_file(p))
        at = self.band.menu_rect().bottomRight().toPoint()
        menu.popup(self.band.mapToGlobal(at) - QPoint(menu.sizeHint().width(), -4))

    def _show_page(self, key: str, make: Callable[[], QWidget]) -> None:
        page = self.pages.get(key)
        if page is None:
            page = self.pages[key] = make()
        page.show()
        page.raise_()
        page.activateWindow()

    def show_settings(self) -> None:
        """Open the settings."""
        self._show_page("settings", lambda: SettingsDialog(self.settings, self.session.tasks, self))

    def show_shortcuts(self) -> None:
        """Open the page of keys."""
        self._show_page("shortcuts", lambda: ShortcutsDialog(self.commands, self))

    def show_log(self) -> None:
        """Open the log of notices."""
        self._show_page("log", lambda: LogDialog(self.session, self))

    def show_history(self) -> None:
        """Open the history of edits."""
        self._show_page("history", lambda: HistoryDialog(self.session, self))

    def show_table(self) -> None:
        """Open the table of facts."""
        self._show_page("table", lambda: TablePage(self.session, self))

    def show_page(self, key: str) -> None:
        """Open a page: formats, rehearsal, cards, sendings, batch, compare, record."""
        makers: dict[str, Callable[[Session, QWidget], QWidget]] = {
            "formats": FormatsPage, "rehearsal": RehearsalPage, "cards": CardsPage,
            "sendings": SendingsPage, "batch": BatchPage, "compare": ComparePage, "record": RecordPage,
            "measures": MeasuresPage, "views": self._views_page, "picture": self._picture_page,
            "drawing": SheetPage, "draw": DrawPage, "register": self._register_page,
        }  # fmt: skip
        self._show_page(key, lambda: makers[key](self.session, self))

    def _views_page(self, session: Session, parent: QWidget) -> QWidget:
        return ViewsPage(session, lambda: self.stage.keep_view(), parent)

    def _picture_page(self, session: Session, parent: QWidget) -> QWidget:
        return PicturePage(session, lambda clear, scale: self.stage.picture(clear, scale), parent)

    def _register_page(self, session: Session, parent: QWidget) -> QWidget:
        session.registering.comparable.connect(self._compare_revisions)
        return RegisterPage(session, parent)

    def _compare_revisions(self, other: Model, names: tuple[str, str]) -> None:
        """Show a revision that was opened beside another."""
        self.session.comparing.with_model(other, names)
        self.show_page("compare")

    def show_record(self) -> None:
        """Open the page of records at the one behind what is selected or the finding pointed at."""
        self.show_page("record")
        page = self.pages["record"]
        assert isinstance(page, RecordPage)
        finding = self.stage.pointer.finding if self.stage is not None else None
        if finding is not None and finding.body:
            face = finding.face >= 0
            kind, place = ("face", finding.face) if face else ("body", -1)
            self.session.sourcing.look_behind(Sought(kind, finding.body, place))
        else:
            page.look_behind()

    def show_records(self, words: str) -> None:
        """Open the page of records at those of some types."""
        self.show_page("record")
        page = self.pages["record"]
        assert isinstance(page, RecordPage)
        page.look_for(words)

    def toggle_parallel(self) -> None:
        """Change between parallel and perspective."""
        self.settings.change(parallel=not self.settings.now.parallel)

    # --- files -----------------------------------------------------------------------------

    def new_window(self) -> None:
        """Open another window with a crossing of its own."""
        self._another()

    def choose_file(self) -> None:
        """Ask for a file and open it."""
        kinds = f"Models and drawings ({_MODELS} *.dxf *{SUFFIX});;All files (*)"
        paths, _ = QFileDialog.getOpenFileNames(self, "Receive files", "", kinds)
        if paths:
            self.session.receiving.open_paths(paths)

    def paste_drawing(self) -> None:
        """Look at the drawing whose DXF text is in the clipboard."""
        text = QApplication.clipboard().text()
        if "SECTION" in text and "ENTITIES" in text:
            self.session.drafting.open("pasted.dxf", text)
        else:
            self.say("There is no DXF text in the clipboard")

    def choose_with_choices(self) -> None:
        """Ask for a file and show its card and choices before anything is loaded."""
        path, _ = QFileDialog.getOpenFileName(self, "Receive a file", "", f"Models ({_MODELS})")
        if path:
            self.session.receiving.open_file(path, ask=True)

    def choose_to_add(self) -> None:
        """Ask for a file to receive beside what is there, after its card and choices."""
        path, _ = QFileDialog.getOpenFileName(self, "Receive beside", "", f"Models ({_MODELS})")
        if path:
            where = ADDED if self.session.model is not None else NEW
            self.session.receiving.open_file(path, ask=True, where=where)

    def choose_folder(self) -> None:
        """Ask for a folder and receive every model file in it."""
        folder = QFileDialog.getExistingDirectory(self, "Receive a folder")
        if folder:
            self.session.receiving.open_paths([folder])

    def add_empty_product(self) -> None:
        """Prepare an empty product to receive into."""
        self.session.add_product()

    def open_demo(self) -> None:
        """Make the demo when it is not there yet, then receive it."""
        folder = str(state_folder() / "demo")
        self.session.run_job(
            "gondrel.demo.make:make_demo", (folder,), "making the demo", self.session.open_file
        )

    def save(self) -> None:
        """Save the crossing, asking where the first time."""
        path = self.session.persistence.path
        if path is not None:
            self.session.persistence.save(path)
        else:
            self.save_as()

    def save_as(self) -> None:
        """Save the crossing where the user says."""
        proposal = str(self.session.persistence.path or f"{self.session.crossing.name}{SUFFIX}")
        path, _ = QFileDialog.getSaveFileName(self, "Save crossing", proposal, f"Crossing (*{SUFFIX})")
        if path:
            self.session.persistence.save(Path(path).with_suffix(SUFFIX))

    def save_html(self) -> None:
        """Save the report as one HTML file."""
        reporting.ask_and_save(self, "html")

    def save_pdf(self) -> None:
        """Save the report as PDF."""
        reporting.ask_and_save(self, "pdf")

    def save_proof(self) -> None:
        """Save the proof beside the sent file."""
        reporting.save_proof(self)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [url.toLocalFile() for url in event.mimeData().urls() if url.isLocalFile()]
        if paths:
            self.session.receiving.open_paths(paths)

    def closeEvent(self, event: QCloseEvent) -> None:
        for page in self.pages.values():
            page.close()
        if self.stage is not None:
            self.stage.close_picture()
        self.session.close()
        super().closeEvent(event)
        self.closed.emit()
