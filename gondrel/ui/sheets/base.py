"""What the station sheets are made of."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QShowEvent
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from gondrel.ui.presenters.cells import LedgerGroup
from gondrel.ui.session.deferred import Deferred
from gondrel.ui.session.tasks import Tasks
from gondrel.ui.widgets.bar import Bar
from gondrel.ui.widgets.labels import empty_layout, plain, quiet
from gondrel.ui.widgets.marks import draw_mark
from gondrel.ui.widgets.theme import palette

__all__ = ["FindingCard", "SheetView"]


class FindingCard(QWidget):
    """One thing that did not simply come across; a click shows where."""

    opened = Signal(object)

    def __init__(self, finding: LedgerGroup, parent: Any = None) -> None:
        super().__init__(parent)
        self.finding = finding
        self.is_open = False
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        column = QVBoxLayout(self)
        column.setContentsMargins(36, 9, 12, 9)
        column.setSpacing(2)
        title = plain(finding.title)
        title.setWordWrap(True)
        title.setProperty("role", "card-title")
        text = plain(finding.text)
        text.setWordWrap(True)
        text.setProperty("role", "card-text")
        column.addWidget(title)
        column.addWidget(text)
        if finding.note:
            note = quiet(finding.note[:1].upper() + finding.note[1:])
            note.setProperty("role", "note")
            column.addWidget(note)
        self.more = quiet("")
        self.more.setProperty("role", "note")
        self.more.hide()
        column.addWidget(self.more)
        self.setAccessibleName(f"{finding.verdict}: {finding.title}, {finding.text}")

    def toggle(self) -> None:
        """Unfold or fold the items."""
        self.is_open = not self.is_open
        lines = self.finding.lines
        shown = "\n".join(lines[:40])
        if len(lines) > 40:
            shown += f"\nand {len(lines) - 40} more"
        self.more.setText(shown)
        self.more.setVisible(self.is_open and bool(lines))
        self.opened.emit(self.finding if self.is_open else None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.toggle()

    def keyPressEvent(self, event: Any) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.toggle()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = palette()
        soft = {"lost": p.brick_soft, "altered": p.ochre_soft, "carried": p.pine_soft}
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QColor(p.accent) if self.hasFocus() or self.is_open else Qt.PenStyle.NoPen)
        painter.setBrush(QColor(soft.get(self.finding.verdict, p.field)))
        painter.drawRoundedRect(self.rect().adjusted(0, 0, -1, -1), 5, 5)
        draw_mark(painter, self.finding.verdict, QPointF(18, 19), 12)


class SheetView(QWidget):
    """A station sheet: title, scrolled facts, and the buttons at the foot.

    What it shows is made anew shortly after a change while it is seen, and when it is gone to
    otherwise: making six sheets in one turn of the event loop would be felt.
    """

    def __init__(self, title: str, deferred: Deferred, parent: Any = None) -> None:
        super().__init__(parent)
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(16, 12, 16, 14)
        outer.setSpacing(8)
        self.title = QLabel(title)
        self.title.setProperty("role", "title")
        outer.addWidget(self.title)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.body = QWidget()
        self.column = QVBoxLayout(self.body)
        self.column.setContentsMargins(0, 0, 4, 0)
        self.column.setSpacing(8)
        self.area.setWidget(self.body)
        outer.addWidget(self.area, 1)
        self.foot = QVBoxLayout()
        self.foot.setSpacing(8)
        outer.addLayout(self.foot)
        self.deferred = deferred
        self._is_stale = True

    def refresh(self) -> None:
        """Show the state of the session; each sheet has its own."""

    def later(self) -> None:
        """Refresh soon when the sheet is seen, otherwise when it is gone to."""
        if self.isVisible():
            self.deferred.ask(self.refresh)
        else:
            self._is_stale = True

    def showEvent(self, event: QShowEvent) -> None:
        if self._is_stale:
            self._is_stale = False
            self.refresh()
        super().showEvent(event)

    def add_progress(self, tasks: Tasks) -> None:
        """Add to the foot what tells of the running job, and the button that stops it."""
        self.tasks = tasks
        self.job_told = 0
        self.doing, self.bar = quiet(""), Bar()
        self.stop = QPushButton("Stop")
        self.stop.clicked.connect(tasks.cancel)
        for widget in (self.doing, self.bar, self.stop):
            self.foot.addWidget(widget)

    def show_task(self, *, elsewhere: bool = False) -> bool:
        """Show the running job; whether there is one.

        Args:
            elsewhere: whether it is shown somewhere else already, which is enough.
        """
        task = self.tasks.shown()
        for widget in (self.doing, self.bar, self.stop):
            widget.setVisible(task is not None and not elsewhere)
        self.job_told = task.number if task is not None and not elsewhere else 0
        if task is None:
            return False
        self.bar.show_share(task.share)
        text = f"{task.title}: {task.text.lower()}" if task.text else task.title
        self.doing.setText(f"{text} \u2026")
        return True

    def clear(self) -> None:
        """Take everything out of the scrolled part."""
        empty_layout(self.column)

    def add(self, widget: QWidget) -> QWidget:
        """Add a widget to the scrolled part."""
        self.column.addWidget(widget)
        return widget

    def add_facts(self, pairs: Sequence[tuple[str, str]]) -> None:
        """Add a list of label and value; values can be copied."""
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        for row, (label, value) in enumerate(pairs):
            name = QLabel(label)
            name.setProperty("role", "quiet")
            name.setAlignment(Qt.AlignmentFlag.AlignTop)
            text = plain(value)
            text.setWordWrap(True)
            text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            text.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
            grid.addWidget(name, row, 0)
            grid.addWidget(text, row, 1)
        self.column.addLayout(grid)

    def finish(self) -> None:
        """Push everything up."""
        self.column.addStretch(1)
        self.deferred.ask(self._settle)

    def _settle(self) -> None:
        """Lay out anew once the style sheet has reached the new widgets."""
        self.column.invalidate()
        self.body.updateGeometry()
        self.column.activate()

    def add_main(self, text: str) -> QPushButton:
        """The sheet's one main button."""
        button = QPushButton(text)
        button.setProperty("role", "main")
        self.foot.addWidget(button)
        return button
