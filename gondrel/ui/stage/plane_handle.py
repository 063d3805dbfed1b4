"""A handle on the plane of the section: dragged, the plane follows along its normal."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gondrel.ui.session.sectioning import Sectioning
from gondrel.ui.widgets.theme import palette

__all__ = ["PlaneHandle"]

_SIDE = 34


class PlaneHandle(QWidget):
    """Stands in the middle of what the plane cuts, with an arrow along the plane's normal."""

    def __init__(
        self, sectioning: Sectioning, canvas: Any, middle: Callable[[], np.ndarray | None], parent: QWidget
    ) -> None:
        super().__init__(parent)
        self.sectioning, self.canvas, self.middle = sectioning, canvas, middle
        self.setFixedSize(_SIDE, _SIDE)
        self.setCursor(Qt.CursorShape.SizeAllCursor)
        self.setToolTip("Drag to move the section; Ctrl and the wheel step it")
        self.setAccessibleName("Section plane")
        self._from: QPointF | None = None
        self._last = 0.0
        self.hide()
        canvas.moved.connect(self.place)
        sectioning.changed.connect(self.place)

    def anchor(self) -> np.ndarray | None:
        """The point of the plane that the handle stands at, mm; None without a plane or a model."""
        plane, middle = self.sectioning.plane, self.middle()
        if plane is None or middle is None or not self.sectioning.is_on:
            return None
        anchor: np.ndarray = middle - plane.unit * float(plane.heights(middle[None])[0])
        return anchor

    def place(self) -> None:
        """Follow the plane and the camera."""
        anchor = self.anchor()
        if anchor is None:
            self.hide()
            return
        ((x, y),) = self.canvas.on_screen(0, anchor[None]).tolist()
        if np.isfinite((x, y)).all():
            self.move(round(x - _SIDE / 2), round(y - _SIDE / 2))
            self.show()
            self.update()

    def along(self) -> tuple[np.ndarray, float]:
        """Where the normal leads on screen: a unit vector, and pixels to a millimetre."""
        anchor, plane = self.anchor(), self.sectioning.plane
        if anchor is None or plane is None:
            return np.array([0.0, -1.0]), 1.0
        reach = self.canvas.size_of_pixels(anchor, 100.0)
        ends = self.canvas.on_screen(0, np.stack([anchor, anchor + plane.unit * reach]))
        step = ends[1] - ends[0]
        length = float(np.linalg.norm(step))
        if not np.isfinite(length) or length < 8.0:  # seen along the normal: up and down move it
            return np.array([0.0, -1.0]), 100.0 / reach
        return step / length, length / reach

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from, self._last = event.globalPosition(), 0.0
        self._way, self._scale = self.along()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is None:
            return
        step = event.globalPosition() - self._from
        wanted = float(self._way @ np.array([step.x(), step.y()])) / self._scale
        self.sectioning.step(wanted - self._last)
        self._last = wanted

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None

    def paintEvent(self, event: QPaintEvent) -> None:
        p = palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = QPointF(_SIDE / 2, _SIDE / 2)
        painter.setPen(QPen(QColor(p.accent), 1.6))
        painter.setBrush(QColor(p.sheet))
        painter.drawEllipse(middle, 13, 13)
        way, _ = self.along()
        tip, across = QPointF(way[0], way[1]), QPointF(-way[1], way[0])
        painter.setPen(QPen(QColor(p.accent), 2.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawLine(middle - tip * 8, middle + tip * 8)
        for side in (1, -1):
            end = middle + tip * 8 * side
            painter.drawLine(end, end - tip * 4 * side + across * 3.2)
            painter.drawLine(end, end - tip * 4 * side - across * 3.2)
