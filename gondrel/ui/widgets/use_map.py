"""A picture of who uses which revision: one row for each level upward."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from gondrel.ui.widgets.theme import font, palette

__all__ = ["UseMap"]

_WIDE, _HIGH, _APART, _LEVEL = 118.0, 34.0, 14.0, 74.0


class UseMap(QWidget):
    """Boxes of revisions, what is looked at at the foot, and lines to what uses it, with how often."""

    clicked = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Who uses it")
        self._name = ""
        self._rows: list[list[str]] = []
        self._uses: Sequence[Mapping[str, Any]] = ()
        self._states: dict[str, str] = {}
        self.boxes: dict[str, QRectF] = {}

    def show_uses(self, name: str, state: str, uses: Sequence[Mapping[str, Any]]) -> None:
        """Show what uses a revision, level by level."""
        self._name, self._uses = name, uses
        self._states = {name: state, **{use["assembly"]: use["state"] for use in uses}}
        level = {name: 0}
        for use in uses:  # as high as it stands at most
            level[use["assembly"]] = max(level.get(use["assembly"], 0), use["level"])
        rows: list[list[str]] = [[] for _ in range(1 + max(level.values(), default=0))]
        for each, height in level.items():
            rows[height].append(each)
        self._rows = rows if name else []
        self._place()
        self.update()

    def _place(self) -> None:
        widest = max((len(row) for row in self._rows), default=0)
        self.setMinimumSize(int(widest * (_WIDE + _APART) + 20), int(len(self._rows) * _LEVEL + 10))
        self.boxes = {}
        for height, row in enumerate(self._rows):
            y = self.height() - 12 - _HIGH - height * _LEVEL
            left = (self.width() - len(row) * (_WIDE + _APART) + _APART) / 2
            for place, name in enumerate(row):
                self.boxes[name] = QRectF(left + place * (_WIDE + _APART), y, _WIDE, _HIGH)

    def resizeEvent(self, event: object) -> None:
        """Boxes stand in the middle."""
        self._place()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click on a box looks at its revision."""
        for name, box in self.boxes.items():
            if box.contains(event.position()):
                self.clicked.emit(name)
                return

    def paintEvent(self, event: QPaintEvent) -> None:
        """Lines first, then boxes over them."""
        colours = palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(colours.sheet))
        painter.setFont(font(11))
        if not self._name:
            painter.setPen(QColor(colours.quiet))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Choose an item")
        for use in self._uses:
            self._line(painter, use)
        for name, box in self.boxes.items():
            self._box(painter, name, box)
        painter.end()

    def _line(self, painter: QPainter, use: Mapping[str, Any]) -> None:
        upper, lower = self.boxes.get(use["assembly"]), self.boxes.get(use["uses"])
        if upper is None or lower is None:
            return
        start = QPointF(lower.center().x(), lower.top())
        end = QPointF(upper.center().x(), upper.bottom())
        painter.setPen(QPen(QColor(palette().quiet), 1.2))
        painter.drawLine(start, end)
        if use["times"] > 1:
            middle = QPointF((start.x() + end.x()) / 2 + 5, (start.y() + end.y()) / 2 - 2)
            painter.drawText(middle, f"\u00d7 {use['times']}")

    def _box(self, painter: QPainter, name: str, box: QRectF) -> None:
        colours, state = palette(), self._states.get(name, "")
        edge = {"released": colours.pine, "withdrawn": colours.brick}.get(state, colours.ochre)
        own = name == self._name
        painter.setPen(QPen(QColor(edge), 2.0 if own else 1.2))
        painter.setBrush(QColor(colours.accent_soft if own else colours.paper))
        painter.drawRoundedRect(box, 5, 5)
        painter.setPen(QColor(colours.ink))
        upper = box.adjusted(4, 2, -4, -box.height() / 2)
        painter.drawText(upper, Qt.AlignmentFlag.AlignCenter, name)
        painter.setPen(QColor(edge))
        painter.drawText(box.adjusted(4, box.height() / 2, -4, -2), Qt.AlignmentFlag.AlignCenter, state)
