"""A thin bar of work done. (Qt's own repaints at once on each change, and the whole picture with it.)"""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QHideEvent, QPainter, QPaintEvent, QShowEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from gondrel.ui.widgets.theme import palette

__all__ = ["Bar"]

_STEP_MS = 80


class Bar(QWidget):
    """Shows a share from 0 to 1; while it is 0 a piece wanders to and fro."""

    def __init__(self, parent: Any = None) -> None:
        super().__init__(parent)
        self.share = 0.0
        self._place = 0.0
        self._timer = QTimer(self, interval=_STEP_MS)
        self._timer.timeout.connect(self._wander)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Work done")

    def sizeHint(self) -> QSize:
        return QSize(120, 6)

    def show_share(self, share: float) -> None:
        """Take the share done; painted with the next frame, and only when it is seen to differ."""
        if round(share * 200) != round(self.share * 200):
            self.share = share
            self.setAccessibleDescription(f"{share:.0%}")
            self.update()
        self._run()

    def _run(self) -> None:
        wanders = self.share == 0.0 and self.isVisible()
        if wanders != self._timer.isActive():
            self._timer.start() if wanders else self._timer.stop()

    def _wander(self) -> None:
        self._place = (self._place + 0.04) % 2.0
        self.update()

    def showEvent(self, event: QShowEvent) -> None:
        self._run()

    def hideEvent(self, event: QHideEvent) -> None:
        self._timer.stop()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(p.field))
        painter.drawRoundedRect(self.rect(), 3, 3)
        painter.setBrush(QColor(p.accent))
        width = self.width()
        if self.share > 0:
            painter.drawRoundedRect(QRectF(0, 0, max(width * self.share, 6), self.height()), 3, 3)
        else:
            there = self._place if self._place <= 1 else 2 - self._place
            painter.drawRoundedRect(QRectF(there * width * 0.7, 0, width * 0.3, self.height()), 3, 3)
