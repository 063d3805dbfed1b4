"""A folder of files sent and proved, as it goes on."""

from __future__ import annotations

import os
import threading
from pathlib import Path

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QTreeWidgetItem,
    QWidget,
)

from gondrel.batch.run import BatchOrder, BatchRun
from gondrel.core.errors import GondrelError
from gondrel.core.model.verdicts import Verdict
from gondrel.core.reports.figures import count_of
from gondrel.core.service.batch import Outcome, counts_of, keep_table
from gondrel.core.service.settings import ReceiveOptions
from gondrel.ui.session.session import Session
from gondrel.ui.shell.pages import Page
from gondrel.ui.shell.recipient_pages import tree_of
from gondrel.ui.widgets.labels import quiet

__all__ = ["BatchPage"]


class _Runner(QObject):
    """A batch in a thread of its own."""

    told = Signal(object, float)
    ended = Signal(str)

    def __init__(self, order: BatchOrder, parent: QObject, *, watch: bool) -> None:
        super().__init__(parent)
        self.batch = BatchRun(order, self.told.emit)
        self._watch = watch
        self.thread_of_it = threading.Thread(target=self._run, name="gondrel-batch", daemon=True)

    def _run(self) -> None:
        why = ""
        try:
            self.batch.run(watch=self._watch)
        except (GondrelError, OSError) as error:
            why = str(error)
        self.ended.emit(why)


class BatchPage(Page):
    """From where, to where, and the table of what came of each file."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Batch", parent, 940, 600)
        self.session = session
        self.runner: _Runner | None = None
        self.outcomes: list[Outcome] = []
        self.how = quiet("")
        self.column.addWidget(self.how)
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        self.source, self.target = QLineEdit(), QLineEdit()
        self.only = QLineEdit("*")
        for row, (title, line) in enumerate((("From", self.source), ("To", self.target))):
            line.setAccessibleName(f"{title} folder")
            line.textChanged.connect(self._offer)
            pick = QPushButton("\u2026")
            pick.setFixedWidth(38)
            pick.setToolTip("Choose the folder")
            pick.clicked.connect(lambda _=False, line=line: self._pick(line))
            grid.addWidget(quiet(title), row, 0)
            grid.addWidget(line, row, 1)
            grid.addWidget(pick, row, 2)
        self.only.setAccessibleName("Only files named")
        grid.addWidget(quiet("Only"), 2, 0)
        grid.addWidget(self.only, 2, 1)
        self.column.addLayout(grid)
        ticks = QHBoxLayout()
        self.inner = QCheckBox("Folders in it too")
        self.inner.setChecked(True)
        self.watch = QCheckBox("Go on as files come")
        for tick in (self.inner, self.watch):
            ticks.addWidget(tick)
        ticks.addStretch(1)
        self.column.addLayout(ticks)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(8)
        self.told = QLabel("")
        self.column.addWidget(self.bar)
        self.column.addWidget(self.told)
        self.tree = tree_of(("File", "Verdict", "Unannounced", "Seconds", "Why"), 4)
        self.tree.setAccessibleName("What came of each file")
        self.tree.header().setMinimumSectionSize(90)
        self.tree.setRootIsDecorated(False)
        self.column.addWidget(self.tree, 1)
        self.go, self.stop = QPushButton("Send and prove all"), QPushButton("Stop")
        self.go.setProperty("role", "main")
        self.keep = QPushButton("Keep the table\u2026")
        self.go.clicked.connect(self.start)
        self.stop.clicked.connect(self.end)
        self.keep.clicked.connect(self._keep)
        for place, button in enumerate((self.go, self.stop, self.keep)):
            self.buttons.insertWidget(place, button)
        self.finish()
        session.forecast_changed.connect(self._say_how)
        session.addressing.changed.connect(self._say_how)
        self._say_how()
        self._offer()

    def _say_how(self) -> None:
        session = self.session
        title = next((t.title for t in session.targets if t.kind == session.choices.kind), "")
        card = session.addressing.card
        whom = card.name if card is not None else "nobody in particular"
        self.how.setText(f"As {title}, for {whom}, in the form that is chosen in Send.")

    def _offer(self) -> None:
        runs = self.runner is not None
        ready = bool(self.source.text().strip() and self.target.text().strip())
        self.go.setEnabled(ready and not runs)
        self.stop.setEnabled(runs)
        self.keep.setEnabled(bool(self.outcomes))
        for widget in (self.source, self.target, self.only, self.inner, self.watch):
            widget.setEnabled(not runs)

    def _pick(self, line: QLineEdit) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Choose a folder", line.text())
        if folder:
            line.setText(folder)

    def start(self) -> None:
        """Send every file of the folder."""
        session = self.session
        try:
            order = BatchOrder(
                str(Path(self.source.text().strip()).expanduser()),
                str(Path(self.target.text().strip()).expanduser()), session.choices.kind, ReceiveOptions(),
                session.send_settings(), session.addressing.card.key if session.addressing.card else "",
                self.only.text().strip() or "*", self.inner.isChecked(), os.cpu_count() or 1,
            )  # fmt: skip
            runner = _Runner(order, self, watch=self.watch.isChecked())
        except GondrelError as error:
            session.tell_error(error)
            return
        self.runner, self.outcomes = runner, []
        self.tree.clear()
        runner.told.connect(self._take, Qt.ConnectionType.QueuedConnection)
        runner.ended.connect(self._ended, Qt.ConnectionType.QueuedConnection)
        self.bar.setRange(0, max(len(runner.batch.tasks), 1))
        self.bar.setValue(0)
        self.told.setText(f"{count_of(len(runner.batch.tasks), 'file')} to send")
        runner.thread_of_it.start()
        self._offer()

    def end(self) -> None:
        """Stop it; what was done stays done and is not done again."""
        if self.runner is not None:
            self.told.setText("Stopping\u2026")
            self.runner.batch.stop()

    def _take(self, outcome: Outcome, left: float) -> None:
        self.outcomes.append(outcome)
        verdict = outcome.verdict
        if verdict in (Verdict.LOST, Verdict.ALTERED) and not outcome.unannounced:
            verdict += ", as announced"
        verdict += ", done before" if outcome.again else ""
        why = outcome.error.removeprefix(f"{outcome.source}: ")
        name = os.path.relpath(outcome.source, self.source.text().strip() or ".")
        row = QTreeWidgetItem(
            [name, verdict, str(outcome.unannounced or ""), f"{outcome.seconds:.1f}", why]
        )
        row.setTextAlignment(3, Qt.AlignmentFlag.AlignRight)
        row.setToolTip(4, outcome.error)
        self.tree.addTopLevelItem(row)
        self.tree.scrollToItem(row)
        runner = self.runner
        if runner is not None:
            self.bar.setMaximum(max(runner.batch.all, 1))
            rest = f", about {left:.0f} s left" if 0 < left < 90 else f", about {left / 60:.0f} min left"
            done = f"{len(self.outcomes)} of {runner.batch.all}"
            self.told.setText(f"{done}: {_counted(self.outcomes)}{rest if left > 0 else ''}")
        self.bar.setValue(len(self.outcomes))
        self.keep.setEnabled(True)

    def _ended(self, why: str) -> None:
        stopped = self.runner is not None and self.runner.batch.stopped.is_set()
        self.runner = None
        end = "Stopped; what was done is not done again. " if stopped else ""
        self.told.setText(why or f"{end}{_counted(self.outcomes) or 'No file to send'}")
        self._offer()

    def _keep(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self, "Keep the table", "batch.xlsx", "Tables (*.xlsx *.csv *.html)"
        )
        if path:
            try:
                keep_table(path, self.outcomes)
            except GondrelError as error:
                self.session.tell_error(error)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.end()
        super().closeEvent(event)


def _counted(outcomes: list[Outcome]) -> str:
    return ", ".join(f"{count} {word}" for word, count in counts_of(outcomes).items() if count)
