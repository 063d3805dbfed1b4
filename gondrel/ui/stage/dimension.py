"""Dimensions drawn over the picture: the nearest points of two things, or the size of one."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gondrel.core.model.views import Dimension
from gondrel.ui.stage.overlay import OverPicture
from gondrel.ui.widgets.theme import font, palette

__all__ = ["Dimensions"]


class Dimensions(OverPicture):
    """Follows the camera; shows what is measured now and what is kept on the view."""

    def __init__(self, canvas: Any, parent: QWidget) -> None:
        super().__init__(canvas, parent)
        self.now: tuple[Dimension, ...] = ()
        self.kept: tuple[Dimension, ...] = ()
        canvas.moved.connect(self.update)

    def show_now(self, dimensions: tuple[Dimension, ...]) -> None:
        """Draw what is measured now."""
        self.now = dimensions
        self._follow()

    def show_kept(self, dimensions: tuple[Dimension, ...]) -> None:
        """Draw what is kept on the view that is shown."""
        self.kept = dimensions
        self._follow()

    def _follow(self) -> None:
        self.resize(self.canvas.size())
        self.setVisible(bool(self.now or self.kept))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(12))
        for dimension in (*self.kept, *self.now):
            self._draw(painter, dimension)

    def _draw(self, painter: QPainter, dimension: Dimension) -> None:
        p = palette()
        seen = self.canvas.on_screen(0, np.array(dimension.points))
        if not np.isfinite(seen).all():
            return
        one, other = (QPointF(x, y) for x, y in seen.tolist())
        for width, colour in ((4.5, QColor(p.sheet)), (1.8, QColor(p.accent))):
            painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(one, other)
            for end in (one, other):
                painter.setBrush(QColor(p.sheet))
                painter.drawEllipse(end, 3.2, 3.2)
        if not dimension.text:
            return
        metrics = QFontMetricsF(painter.font())
        room = metrics.horizontalAdvance(dimension.text) + 14
        middle = QPointF((one.x() + other.x()) / 2, (one.y() + other.y()) / 2)
        along = other - one
        length = max((along.x() ** 2 + along.y() ** 2) ** 0.5, 1e-6)
        x, y = (-along.y() / length * 18, along.x() / length * 18) if length > 1 else (0.0, -20.0)
        if y > 0:
            x, y = -x, -y
        label = QRectF(middle.x() + x - room / 2, middle.y() + y - 11, room, 22)
        painter.setPen(QPen(QColor(p.accent), 1.2))
        painter.setBrush(QColor(p.sheet))
        painter.drawRoundedRect(label, 4, 4)
        painter.setPen(QColor(p.ink))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, dimension.text)
