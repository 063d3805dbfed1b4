"""The carriage ledger along the bottom of the window."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from gondrel.ui.presenters.cells import Cell
from gondrel.ui.widgets.marks import draw_mark
from gondrel.ui.widgets.theme import elided, font, palette, scaled, verdict_colour

__all__ = ["LedgerView"]

_HEAD = 138


class LedgerView(QWidget):
    """One cell for each carried thing: before, after, verdict. A click opens what is behind it."""

    chosen = Signal(str)

    def __init__(self, parent: Any = None) -> None:
        super().__init__(parent)
        self.fit_type()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.cells: list[Cell] = []
        self.current = ""
        self.heading, self.subheading, self.footing = "Carriage", "", ""
        self.setAccessibleName("Carriage ledger")

    def fit_type(self) -> None:
        """Take the height that the type needs."""
        self.setFixedHeight(scaled(122))

    def sizeHint(self) -> QSize:
        return QSize(1280, scaled(122))

    def show_cells(self, cells: list[Cell], heading: str, subheading: str, footing: str) -> None:
        """Take the cells and the words at the left."""
        self.cells = cells
        self.heading, self.subheading, self.footing = heading, subheading, footing
        self.update()

    def set_current(self, thing: str) -> None:
        """Mark one cell as opened."""
        self.current = thing
        self.update()

    def cell_rect(self, index: int) -> QRectF:
        """Where a cell is, in pixels."""
        width = (self.width() - _HEAD - 12) / max(len(self.cells), 1)
        return QRectF(_HEAD + index * width, 8, width, self.height() - 14)

    def _index_at(self, position: QPointF) -> int | None:
        for index in range(len(self.cells)):
            if self.cell_rect(index).contains(position):
                return index
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = self._index_at(event.position())
        if index is not None and not self.cells[index].is_quiet:
            thing = self.cells[index].thing
            self.chosen.emit("" if thing == self.current else thing)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        index = self._index_at(event.position())
        usable = index is not None and not self.cells[index].is_quiet
        self.setCursor(Qt.CursorShape.PointingHandCursor if usable else Qt.CursorShape.ArrowCursor)
        if index is not None:
            cell = self.cells[index]
            text = (
                f"{cell.title}: none in this model"
                if cell.is_quiet
                else (f"{cell.title}: {cell.before} before, {cell.after} after, {self._word(cell)}")
            )
            QToolTip.showText(event.globalPosition().toPoint(), text, self)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        usable = [c.thing for c in self.cells if not c.is_quiet]
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None or not usable:
            super().keyPressEvent(event)
            return
        at = usable.index(self.current) + step if self.current in usable else 0
        self.chosen.emit(usable[at % len(usable)])

    def paintEvent(self, event: QPaintEvent) -> None:
        p = palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(p.paper))
        painter.fillRect(QRectF(0, 0, self.width(), 1.5), QColor(p.line))
        painter.setPen(QColor(p.ink))
        painter.setFont(font(14, QFont.Weight.DemiBold))
        painter.drawText(QPointF(18, scaled(27)), self.heading)
        painter.setFont(font(11))
        painter.setPen(QColor(p.quiet))
        box = QRectF(18, scaled(34), _HEAD - 26, scaled(46))
        flags = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop)
        painter.drawText(box, flags, self.subheading)
        painter.drawText(QRectF(18, scaled(84), _HEAD - 22, scaled(34)), flags, self.footing)
        for index, cell in enumerate(self.cells):
            self._paint_cell(painter, cell, self.cell_rect(index))

    @staticmethod
    def _word(cell: Cell) -> str:
        if cell.is_quiet:
            return "none"
        if cell.is_forecast:
            word = cell.verdict.partition(" ")[0]
            return {"carried": "will carry", "altered": "will alter", "lost": "will lose"}.get(word, word)
        return cell.verdict.partition(" ")[0]

    def _paint_cell(self, painter: QPainter, cell: Cell, rect: QRectF) -> None:
        p = palette()
        colour = QColor(p.line if cell.is_quiet else verdict_colour(cell.verdict))
        inner = rect.adjusted(3, 0, -3, 0)
        if cell.thing == self.current:
            painter.setPen(QPen(colour, 1))
            painter.setBrush(QColor(p.sheet))
            painter.drawRoundedRect(inner.adjusted(0, 3, 0, 0), 5, 5)
        bar = QPen(colour, 3)
        bar.setCapStyle(Qt.PenCapStyle.RoundCap)
        if cell.is_forecast and not cell.is_quiet:
            bar.setStyle(Qt.PenStyle.CustomDashLine)
            bar.setDashPattern([2.2, 2.2])
        painter.setPen(bar)
        painter.drawLine(QPointF(inner.left() + 2, 9), QPointF(inner.right() - 2, 9))
        left, width = inner.left() + 7, inner.width() - 10
        ink, quiet = QColor(p.ink), QColor(p.quiet)
        painter.setPen(quiet)
        painter.setFont(font(11.5))
        painter.drawText(QPointF(left, scaled(31)), elided(cell.title, font(11.5), int(width + 4)))
        if cell.is_quiet:
            painter.setFont(font(11))
            painter.drawText(QPointF(left, scaled(54)), elided(cell.note, font(11), int(width + 4)))
            return
        painter.setFont(font(12.5))
        painter.drawText(QPointF(left, scaled(51)), elided(cell.before, font(12.5), int(width)))
        arrow = QPen(quiet, 1.2)
        painter.setPen(arrow)
        y = scaled(57)
        painter.drawLine(QPointF(left + 3, y), QPointF(left + 3, y + 7))
        painter.drawPolyline(
            [QPointF(left, y + 4.5), QPointF(left + 3, y + 7.5), QPointF(left + 6, y + 4.5)]
        )
        painter.setPen(ink)
        big = font(17 if len(cell.after) < 6 else 12.5, QFont.Weight.DemiBold)
        painter.setFont(big)
        painter.drawText(QPointF(left, scaled(84)), elided(cell.after, big, int(width)))
        draw_mark(painter, cell.verdict, QPointF(left + 5, scaled(101)), 10)
        painter.setPen(QColor(verdict_colour(cell.verdict)))
        painter.setFont(font(11))
        word = "unannounced" if cell.note == "not announced" else self._word(cell)
        painter.drawText(QPointF(left + 14, scaled(105)), elided(word, font(11), int(width - 12)))
