"""One line that finds commands, items and settings."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
)

from gondrel.ui.presenters.search import SearchText, find
from gondrel.ui.widgets.labels import plain

__all__ = ["SearchPanel", "SearchTarget"]

_WIDTH, _ROWS = 430, 12


@dataclass(frozen=True, slots=True)
class SearchTarget:
    """Something that can be found, and what choosing it does."""

    text: SearchText
    run: Callable[[], object]


class SearchPanel(QFrame):
    """Drops down under the band; arrows choose, Enter runs, Esc closes."""

    def __init__(self, parent: Any) -> None:
        super().__init__(parent)
        self.setObjectName("search")
        self.targets: list[SearchTarget] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 12, 12, 10)
        self.line = QLineEdit()
        self.line.setPlaceholderText("Find a command, an item or a setting")
        self.line.setAccessibleName("Find a command, an item or a setting")
        self.list = QListWidget()
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.none = QLabel("Nothing of that name. Try a shorter word.")
        self.none.setProperty("role", "quiet")
        column.addWidget(self.line)
        column.addWidget(self.list)
        column.addWidget(self.none)
        self.line.textChanged.connect(self._show)
        self.line.installEventFilter(self)
        self.list.itemClicked.connect(lambda item: self._run(item))
        self.hide()

    def open(self, targets: list[SearchTarget]) -> None:
        """Show the panel over what can be found now."""
        self.targets = targets
        self.line.clear()
        self._show("")
        parent = self.parentWidget()
        assert parent is not None
        self.setFixedWidth(min(_WIDTH, parent.width() - 40))
        self.move(parent.width() - self.width() - 20, 56)
        self.show()
        self.raise_()
        self.line.setFocus()

    def _show(self, text: str) -> None:
        self.list.clear()
        shown = find([t.text for t in self.targets], text, _ROWS)
        for index in shown:
            target = self.targets[index]
            item = QListWidgetItem()
            item.setData(Qt.ItemDataRole.UserRole, index)
            self.list.addItem(item)
            row = QFrame()
            line = QHBoxLayout(row)
            line.setContentsMargins(8, 3, 8, 3)
            title = plain(target.text.title)
            kind = QLabel(target.text.hint)
            kind.setProperty("role", "quiet")
            line.addWidget(title, 1)
            line.addWidget(kind)
            item.setSizeHint(row.sizeHint())
            self.list.setItemWidget(item, row)
        self.list.setCurrentRow(0)
        self.none.setVisible(not shown)
        self.list.setVisible(bool(shown))
        height = sum(self.list.sizeHintForRow(i) for i in range(self.list.count()))
        self.list.setFixedHeight(height + 4)
        self.adjustSize()

    def _run(self, item: QListWidgetItem | None) -> None:
        if item is None:
            return
        target = self.targets[item.data(Qt.ItemDataRole.UserRole)]
        self.hide()
        target.run()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.line and event.type() == QEvent.Type.FocusOut:
            self.hide()
        if watched is self.line and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step is not None and self.list.count():
                self.list.setCurrentRow((self.list.currentRow() + step) % self.list.count())
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._run(self.list.currentItem())
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.hide()
                return True
        return False
