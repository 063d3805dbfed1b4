"""Six views and home, laid out as views stand on a drawing sheet; the sides now seen are lit."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gondrel.ui.widgets.theme import font, palette

__all__ = ["ViewPicker"]

_CELL, _GAP = 27, 3
_PLACES = {
    "top": (1, 0, "Top"), "left": (0, 1, "Left"), "front": (1, 1, "Front"), "right": (2, 1, "Right"),
    "back": (3, 1, "Back"), "below": (1, 2, "Below"), "home": (3, 0, "Home"),
}  # fmt: skip
"""Column, row and name of each view: as the third-angle projection of ISO 5456-2 places them."""

_DIRECTIONS = {
    "top": (0, 0, 1), "left": (-1, 0, 0), "front": (0, -1, 0), "right": (1, 0, 0), "back": (0, 1, 0),
    "below": (0, 0, -1),
}  # fmt: skip


class ViewPicker(QWidget):
    """A small sheet of views; a click turns the picture. Arrow keys and Enter work too."""

    chosen = Signal(str)

    def __init__(self, parent: Any = None) -> None:
        super().__init__(parent)
        self.setFixedSize(self.sizeHint())
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Views")
        self.towards = np.array([0.0, 0.0, 1.0])
        self.hovered = ""
        self.current = "home"

    def sizeHint(self) -> QSize:
        return QSize(4 * (_CELL + 9) + 3 * _GAP, 3 * _CELL + 2 * _GAP)

    def show_direction(self, back: np.ndarray) -> None:
        """Take the unit vector from the model to the viewer."""
        self.towards = back
        self.update()

    def cell(self, view: str) -> QRectF:
        """Where a view's cell is."""
        column, row, _ = _PLACES[view]
        width = _CELL + 9
        return QRectF(column * (width + _GAP), row * (_CELL + _GAP), width, _CELL)

    def _at(self, position: QPointF) -> str:
        return next((view for view in _PLACES if self.cell(view).contains(position)), "")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.hovered = self._at(event.position())
        self.setToolTip(f"View: {_PLACES[self.hovered][2].lower()}" if self.hovered else "")
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if view := self._at(event.position()):
            self.current = view
            self.chosen.emit(view)

    def leaveEvent(self, event: Any) -> None:
        self.hovered = ""
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        order = list(_PLACES)
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is not None:
            self.current = order[(order.index(self.current) + step) % len(order)]
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.chosen.emit(self.current)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for view, (_, _, name) in _PLACES.items():
            rect = self.cell(view).adjusted(0.5, 0.5, -0.5, -0.5)
            seen = float(np.dot(_DIRECTIONS[view], self.towards)) if view in _DIRECTIONS else 0.0
            fill = QColor(p.sheet)
            if seen > 0.05:
                fill = _between(QColor(p.sheet), QColor(p.accent), 0.12 + 0.75 * seen**2)
            fill.setAlpha(235)
            painter.setBrush(fill)
            marked = view == self.hovered or (self.hasFocus() and view == self.current)
            painter.setPen(QPen(QColor(p.accent if marked else p.line), 1.4 if marked else 1.0))
            painter.drawRoundedRect(rect, 3, 3)
            painter.setPen(QColor(p.sheet if seen > 0.72 else p.ink))
            painter.setFont(font(10, QFont.Weight.Medium))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, name)


def _between(one: QColor, other: QColor, share: float) -> QColor:
    return QColor(
        round(one.red() + (other.red() - one.red()) * share),
        round(one.green() + (other.green() - one.green()) * share),
        round(one.blue() + (other.blue() - one.blue()) * share),
    )
