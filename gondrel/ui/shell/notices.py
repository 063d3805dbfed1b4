"""What is told over the stage: short notices that go by themselves, errors that stay, running work."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QPointF, Qt, QTimer, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gondrel.core.errors import GondrelError
from gondrel.ui.session.tasks import Task, Tasks
from gondrel.ui.widgets.bar import Bar
from gondrel.ui.widgets.labels import plain, quiet
from gondrel.ui.widgets.marks import draw_mark

__all__ = ["ErrorNotice", "Toast", "WorkStrip", "error_text"]

_TOAST_MS = 6000
_PATIENCE_MS, _SHOWN_MS = 400, 60
"""Time until a job is told of, and until what is told of those shown is told anew."""


def error_text(error: GondrelError) -> str:
    """An error as text to copy: what, where, why and what to do."""
    lines = [error.message]
    lines += [f"File: {error.file}"] if error.file else []
    lines += [f"Place: {error.where}"] if error.where else []
    lines += [f"What to do: {error.hint}"] if error.hint else []
    return "\n".join(lines)


def _width_over(notice: QWidget) -> int:
    """Width of what a notice lies over, in pixels."""
    parent = notice.parentWidget()
    return parent.width() if parent is not None else 0


class Toast(QLabel):
    """A short notice that goes by itself; the log keeps it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__("", parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setObjectName("notice")
        self.setWordWrap(True)
        self.hide()
        self._ends = QTimer(self, singleShot=True, interval=_TOAST_MS)
        self._ends.timeout.connect(self.hide)

    def say(self, text: str) -> None:
        """Show a text for a while; the owner places the widget."""
        self.setText(text)
        room = max(_width_over(self) - 80, 200)
        self.setFixedWidth(max(min(room, self.fontMetrics().horizontalAdvance(text) + 40), 160))
        self.adjustSize()
        self.show()
        self.raise_()
        self._ends.start()

    def mousePressEvent(self, event: Any) -> None:
        self.hide()


class ErrorNotice(QFrame):
    """An error that stays until it is closed: what happened, where, why, and a button to copy it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("error")
        self.error: GondrelError | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(42, 14, 14, 12)
        column.setSpacing(5)
        self.what = plain("")
        self.what.setProperty("role", "name")
        self.what.setWordWrap(True)
        self.what.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.rest = quiet("")
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        self.copy = QPushButton("Copy")
        self.copy.clicked.connect(self._copy)
        self.shut = QPushButton("Close")
        self.shut.clicked.connect(self.hide)
        for button in (self.copy, self.shut):
            buttons.addWidget(button)
        column.addWidget(self.what)
        column.addWidget(self.rest)
        column.addLayout(buttons)
        self._copied = QTimer(self, singleShot=True, interval=1500)
        self._copied.timeout.connect(lambda: self.copy.setText("Copy"))
        self.hide()

    def tell(self, error: GondrelError) -> None:
        """Show an error; the owner places the widget."""
        self.error = error
        message = error.message
        self.what.setText(message[:1].upper() + message[1:])
        self.rest.setText("\n".join(error_text(error).split("\n")[1:]))
        self.rest.setVisible(bool(self.rest.text()))
        self.setFixedWidth(max(min(_width_over(self) - 60, 460), 280))
        layout = self.layout()
        assert layout is not None
        layout.activate()
        self.setFixedHeight(layout.totalHeightForWidth(self.width()))
        self.show()
        self.raise_()

    def _copy(self) -> None:
        if self.error is not None:
            QApplication.clipboard().setText(error_text(self.error))
            self.copy.setText("Copied")
            self._copied.start()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        draw_mark(QPainter(self), "fault", QPointF(22, 26), 14)


class WorkStrip(QFrame):
    """One line for each running job that takes more than a moment, each with its own stop.

    Args:
        count_shown: the number of the job that the station sheet tells of, which is not told here again.
    """

    changed = Signal()

    def __init__(self, tasks: Tasks, count_shown: Callable[[], int], parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("work")
        self.tasks = tasks
        self.count_shown = count_shown
        self.is_quiet = True
        self.rows: dict[int, _JobRow] = {}
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(12, 8, 8, 8)
        self._column.setSpacing(4)
        self._spare = [self._row() for _ in range(_AT_ONCE)]
        self._due = QTimer(self, singleShot=True, interval=_PATIENCE_MS)
        self._due.timeout.connect(self._refresh)
        tasks.changed.connect(self._tasks_changed)
        self.hide()

    def set_quiet(self, quiet: bool) -> None:
        """Stay away while the stage itself says what is loading."""
        self.is_quiet = quiet
        self._refresh()

    def _tasks_changed(self) -> None:
        if not self._due.isActive():
            self._due.start(_SHOWN_MS if self.rows else _PATIENCE_MS)

    def _refresh(self) -> None:
        count_shown = self.count_shown()
        for number in [n for n in self.rows if n not in self.tasks.running or n == count_shown]:
            row = self.rows.pop(number)
            row.hide()
            self._column.removeWidget(row)
            self._spare.append(row)
        groups: dict[str, int] = {}
        for number, task in self.tasks.running.items():
            first = groups.setdefault(task.title, number)
            if first != number or number == count_shown:
                continue
            if number not in self.rows:
                self.rows[number] = row = self._spare.pop() if self._spare else self._row()
                self._column.addWidget(row)  # as the last of those that are shown
                row.take(number, task.title)
            self.rows[number].tell(task)
        self.setVisible(bool(self.rows) and not self.is_quiet)
        self.adjustSize()
        self.changed.emit()

    def _row(self) -> _JobRow:
        return _JobRow(self.tasks.cancel_one, self)


_AT_ONCE = 3
"""Lines made beforehand: making one takes long enough to be felt where a job is just beginning."""


class _JobRow(QWidget):
    """What a job does, how far it is, and its stop."""

    def __init__(self, cancel: Callable[[int], None], parent: QWidget) -> None:
        super().__init__(parent)
        self.number = 0
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        self.label = QLabel()
        self.label.setFixedWidth(230)
        self.bar = Bar()
        self.bar.setFixedWidth(90)
        self.stop = QPushButton("Stop")
        self.stop.setProperty("role", "tool")
        self.stop.clicked.connect(lambda: cancel(self.number))
        for widget in (self.label, self.bar, self.stop):
            line.addWidget(widget)
        self.hide()

    def take(self, number: int, title: str) -> None:
        """Tell of another job."""
        self.number = number
        self.stop.setAccessibleName(f"Stop {title}")
        self.show()

    def tell(self, task: Task) -> None:
        """Show how far it is."""
        self.label.setText(f"{task.title}: {task.text.lower()}" if task.text else task.title)
        self.bar.show_share(task.share)
