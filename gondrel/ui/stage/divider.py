"""The movable line between received and returned."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gondrel.ui.widgets.theme import palette

__all__ = ["Divider"]


class Divider(QWidget):
    """The movable line between the two panes."""

    moved = Signal(float)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setCursor(Qt.CursorShape.SplitHCursor)
        self.setFixedWidth(14)
        self.setToolTip("Drag to give one side more room")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.moved.emit(self.mapToParent(event.position().toPoint()).x())

    def paintEvent(self, event: QPaintEvent) -> None:
        p = palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.width() / 2
        painter.setPen(QPen(QColor(p.line), 1.4))
        painter.drawLine(QPointF(middle, 0), QPointF(middle, self.height()))
        grip = QRectF(middle - 5, self.height() / 2 - 21, 10, 42)
        painter.setBrush(QColor(p.sheet))
        painter.drawRoundedRect(grip, 5, 5)
        painter.setPen(QPen(QColor(p.quiet), 1.2))
        for x in (-1.5, 1.5):
            painter.drawLine(
                QPointF(middle + x, self.height() / 2 - 8),
                QPointF(middle + x, self.height() / 2 + 8),
            )
