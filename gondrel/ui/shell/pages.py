"""Pages beside the work, none of them modal: settings, keys, log, history."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from typing import Any

from PySide6.QtCore import Qt, QTimer, QUrl
from PySide6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.work.log import log_file
from gondrel.ui.session.session import Session
from gondrel.ui.session.settings import MOST_MEMORY, SettingsStore
from gondrel.ui.session.tasks import Tasks
from gondrel.ui.shell.command import Command
from gondrel.ui.widgets.labels import head, quiet
from gondrel.ui.widgets.theme import palette

__all__ = ["HistoryDialog", "LogDialog", "Page", "SettingsDialog", "ShortcutsDialog"]


class Page(QDialog):
    """A page with a title and a Close button."""

    def __init__(self, title: str, parent: QWidget, width: int, height: int) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.setWindowTitle(f"{title} \u2013 Gondrel")
        self.setModal(False)
        self.resize(width, height)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(20, 16, 20, 16)
        self.column.setSpacing(10)
        label = QLabel(title)
        label.setProperty("role", "title")
        self.column.addWidget(label)
        self.buttons = QHBoxLayout()
        self.buttons.addStretch(1)
        close = QPushButton("Close")
        close.clicked.connect(self.close)
        self.buttons.addWidget(close)

    def finish(self) -> None:
        """Put the buttons at the foot."""
        self.column.addLayout(self.buttons)


class SettingsDialog(Page):
    """Author, organisation, shown units and decimal places, theme and type."""

    def __init__(self, settings: SettingsStore, tasks: Tasks, parent: QWidget) -> None:
        super().__init__("Settings", parent, 500, 600)
        self.settings, self.tasks = settings, tasks
        now = settings.now
        form = QFormLayout()
        form.setHorizontalSpacing(18)
        form.setVerticalSpacing(10)
        self.author = QLineEdit(now.author)
        self.organisation = QLineEdit(now.organisation)
        self.unit = _choice((("mm", "millimetre"), ("inch", "inch")), now.shown_unit)
        self.decimals = QSpinBox()
        self.decimals.setRange(0, 6)
        self.decimals.setValue(now.decimals)
        self.theme = _choice((("light", "Light"), ("dark", "Dark")), now.theme)
        self.large = QCheckBox("Larger type everywhere")
        self.large.setChecked(now.large_type)
        self.up = _choice((("z", "Z"), ("y", "Y"), ("x", "X")), now.up)
        self.up.currentIndexChanged.connect(lambda: settings.change(up=self.up.currentData()))
        self.idle = QCheckBox("Check what was received when nothing else is going on")
        self.idle.setChecked(now.checks_idle)
        self.idle.toggled.connect(lambda on: settings.change(checks_idle=on))
        self.memory = QSpinBox()
        self.memory.setRange(0, MOST_MEMORY)
        self.memory.setSuffix(" GB")
        self.memory.setSpecialValueText("as the work needs")
        self.memory.setValue(now.memory)
        self.memory.valueChanged.connect(lambda value: settings.change(memory=value))
        self.used = quiet("")
        self._clock = QTimer(self)
        self._clock.setInterval(1000)
        self._clock.timeout.connect(self._tell_memory)
        self._clock.start()
        self._tell_memory()
        self.author.editingFinished.connect(lambda: settings.change(author=self.author.text().strip()))
        self.organisation.editingFinished.connect(
            lambda: settings.change(organisation=self.organisation.text().strip())
        )
        self.unit.currentIndexChanged.connect(lambda: settings.change(shown_unit=self.unit.currentData()))
        self.decimals.valueChanged.connect(lambda value: settings.change(decimals=value))
        self.theme.currentIndexChanged.connect(lambda: settings.change(theme=self.theme.currentData()))
        self.large.toggled.connect(lambda on: settings.change(large_type=on))
        self.receiver = QLineEdit(now.receiver)
        self.receiver.setPlaceholderText("a word of its name in file headers")
        self.receiver.editingFinished.connect(
            lambda: settings.change(receiver=self.receiver.text().strip())
        )
        for label, widget in (
            ("Author", self.author),
            ("Organisation", self.organisation),
            ("Our system", self.receiver),
            ("Figures shown in", self.unit),
            ("Decimal places", self.decimals),
            ("Up in the picture", self.up),
            ("Checking", self.idle),
            ("Memory at most", self.memory),
            ("", self.used),
            ("Theme", self.theme),
            ("Type", self.large),
        ):
            form.addRow(label, widget)
        self.column.addLayout(form)
        self.column.addWidget(
            quiet("Author and organisation go into the header of every file that is sent. "
                  "The unit here is for reading; the unit of a file is chosen when it is sent. When a "
                  "file comes from our own system, the Receive sheet says so.")
        )  # fmt: skip
        self.column.addStretch(1)
        self.finish()

    def _tell_memory(self) -> None:
        window, reader, mesher = self.tasks.memory()
        self.used.setText(
            f"For each of two processes; work that needs more is ended. Held now: window {window:,.0f} MB, "
            f"reading {reader:,.0f} MB, measuring {mesher:,.0f} MB."
        )


def _choice(entries: Sequence[tuple[str, str]], chosen: str) -> QComboBox:
    box = QComboBox()
    for key, text in entries:
        box.addItem(text, key)
    box.setCurrentIndex(max(box.findData(chosen), 0))
    return box


class ShortcutsDialog(Page):
    """Every command with its key, by group, in two columns."""

    def __init__(self, commands: Sequence[Command], parent: QWidget) -> None:
        super().__init__("Keys and shortcuts", parent, 760, 620)
        area = QScrollArea()
        area.setWidgetResizable(True)
        body = QWidget()
        outer = QHBoxLayout(body)
        outer.setSpacing(36)
        groups: dict[str, list[Command]] = {}
        for command in commands:
            if command.keys:
                groups.setdefault(command.group, []).append(command)
        sides = (QVBoxLayout(), QVBoxLayout())
        heights = [0, 0]
        for name, members in groups.items():
            side = 0 if heights[0] <= heights[1] else 1
            heights[side] += len(members) + 2
            sides[side].addWidget(head(name))
            block = QWidget()
            block.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
            grid = QGridLayout(block)
            grid.setContentsMargins(0, 0, 0, 0)
            grid.setVerticalSpacing(4)
            grid.setColumnStretch(0, 1)
            for row, command in enumerate(members):
                grid.addWidget(QLabel(command.title.rstrip("\u2026")), row, 0)
                key = QLabel(" or ".join(command.keys))
                key.setProperty("role", "quiet")
                grid.addWidget(key, row, 1, Qt.AlignmentFlag.AlignRight)
            sides[side].addWidget(block)
            sides[side].addSpacing(10)
        sides[0].addWidget(head("Mouse in the picture"))
        sides[0].addWidget(
            quiet("Drag: turn about the point under the pointer. Shift or middle button and drag: shift. "
                  "Wheel: nearer and farther at the pointer. Click: select a body, then its face or edge. "
                  "Ctrl and click: add to the selection.")
        )  # fmt: skip
        for column in sides:
            column.addStretch(1)
            outer.addLayout(column, 1)
        area.setWidget(body)
        self.column.addWidget(area, 1)
        self.finish()


class LogDialog(Page):
    """Every notice and error since the window was opened; can be copied."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("Log", parent, 640, 440)
        self.session = session
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.column.addWidget(self.text, 1)
        copy = QPushButton("Copy all")
        copy.clicked.connect(lambda: QApplication.clipboard().setText(self.text.toPlainText()))
        self.buttons.insertWidget(1, copy)
        try:
            path = log_file()
        except OSError:
            path = None
        if path is not None:  # what went wrong within, tracebacks of workers above all
            address = QUrl.fromLocalFile(str(path)).toString()
            style = f"color: {palette().accent}"
            link = QLabel(f"Full log: <a style='{style}' href='{address}'>{escape(str(path))}</a>")
            link.setTextFormat(Qt.TextFormat.RichText)
            link.setOpenExternalLinks(True)
            link.setAccessibleName("File of the full log")
            link.setToolTip("The full log, with what stands behind an error")
            self.column.addWidget(link)
        session.log_changed.connect(self.refresh)
        self.refresh()
        self.finish()

    def refresh(self) -> None:
        """Show the session's log, newest last."""
        lines = []
        for entry in self.session.log:
            mark = "ERROR  " if entry.kind == "error" else ""
            lines.append(f"{entry.time:%H:%M:%S}  {mark}{entry.text}")
            if entry.detail:
                lines.append(f"          {entry.detail}")
        self.text.setPlainText("\n".join(lines) or "Nothing was said yet.")
        self.text.verticalScrollBar().setValue(self.text.verticalScrollBar().maximum())


class HistoryDialog(Page):
    """The edits by name; choosing one goes back or forward to it."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__("History", parent, 420, 420)
        self.session = session
        self.list = QListWidget()
        self.list.itemActivated.connect(self._go)
        self.list.itemClicked.connect(self._go)
        self.column.addWidget(quiet("Choose a line to go back or forward to it."))
        self.column.addWidget(self.list, 1)
        session.model_changed.connect(self.refresh)
        self.refresh()
        self.finish()

    def refresh(self) -> None:
        """Show the history with the current step marked."""
        self.list.clear()
        history = self.session.crossing.history
        for index, step in enumerate(history.steps):
            item = QListWidgetItem(("\u25b8 " if index == history.at else "   ") + step.name)
            item.setData(Qt.ItemDataRole.UserRole, index)
            if index > history.at:
                item.setForeground(self.palette().placeholderText())
            self.list.addItem(item)
        self.list.setCurrentRow(history.at)

    def _go(self, item: Any) -> None:
        self.session.go_to_step(item.data(Qt.ItemDataRole.UserRole))
