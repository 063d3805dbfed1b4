"""The route band: the crossing's name, the six stations, and search."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gondrel.ui.presenters.badges import Badge
from gondrel.ui.session.stations import Station
from gondrel.ui.widgets.theme import elided, font, palette

__all__ = ["RouteBand"]

_LEFT, _RIGHT = 300, 296
_SEARCH, _MENU = 212, 40


class RouteBand(QWidget):
    """Stations on a line; the current one is white, those behind it lit."""

    chosen = Signal(int)
    find_wanted = Signal()
    menu_wanted = Signal()

    def __init__(self, parent: Any = None) -> None:
        super().__init__(parent)
        self.setFixedHeight(52)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMouseTracking(True)
        self.name, self.subtitle = "New crossing", "nothing received yet"
        self.current = 0
        self.reached = 0
        self.badges: dict[int, Badge] = {}
        self.setAccessibleName("Route: stations of the work")

    def sizeHint(self) -> QSize:
        return QSize(1280, 52)

    def show_state(
        self,
        name: str,
        subtitle: str,
        current: int,
        reached: int,
        badges: dict[int, Badge],
    ) -> None:
        """Take what is to be shown; a badge is a count and a verdict by station."""
        self.name, self.subtitle, self.current, self.reached = name, subtitle, current, reached
        self.badges = badges
        self.setAccessibleDescription(f"{name}, {subtitle}, at {Station(current).title}")
        self.update()

    def centre(self, station: int) -> QPointF:
        """Centre of a station's stop in pixels."""
        width = self.width() - _LEFT - _RIGHT
        step = width / len(Station)
        return QPointF(_LEFT + step * (station + 0.5), 20)

    def search_rect(self) -> QRectF:
        """Where the search line is."""
        return QRectF(self.width() - _MENU - _SEARCH - 14, 11, _SEARCH, 30)

    def menu_rect(self) -> QRectF:
        """Where the menu button is."""
        return QRectF(self.width() - _MENU - 4, 10, _MENU - 6, 32)

    def _station_at(self, x: float) -> int | None:
        step = (self.width() - _LEFT - _RIGHT) / len(Station)
        index = int((x - _LEFT) // step)
        return index if 0 <= index < len(Station) else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.menu_rect().contains(event.position()):
            self.menu_wanted.emit()
            return
        if self.search_rect().contains(event.position()):
            self.find_wanted.emit()
            return
        station = self._station_at(event.position().x())
        if station is not None:
            self.chosen.emit(station)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        over = self._station_at(at.x()) is not None
        over = over or self.menu_rect().contains(at) or self.search_rect().contains(at)
        self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        self.chosen.emit(min(max(self.current + step, 0), len(Station) - 1))

    def paintEvent(self, event: QPaintEvent) -> None:
        p = palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(p.band))
        painter.setPen(QColor(p.on_band))
        title = font(15, QFont.Weight.DemiBold)
        painter.setFont(title)
        painter.drawText(
            QRectF(18, 6, _LEFT - 30, 22),
            Qt.AlignmentFlag.AlignVCenter,
            elided(self.name, title, _LEFT - 34),
        )
        small = font(11)
        painter.setFont(small)
        painter.setPen(QColor(p.band_quiet))
        painter.drawText(
            QRectF(18, 27, _LEFT - 24, 18),
            Qt.AlignmentFlag.AlignVCenter,
            elided(self.subtitle, small, _LEFT - 30),
        )
        self._paint_line(painter)
        for station in Station:
            self._paint_station(painter, station)
        self._paint_search(painter)
        self._paint_menu(painter)

    def _paint_search(self, painter: QPainter) -> None:
        p = palette()
        rect = self.search_rect()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(p.band_field))
        painter.drawRoundedRect(rect, 15, 15)
        painter.setPen(QColor(p.band_quiet))
        small = font(12)
        painter.setFont(small)
        inner = rect.adjusted(15, 0, -14, 0)
        text = elided("Find a command or item", small, int(inner.width()) - 46)
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, text)
        painter.setFont(font(11))
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, "Ctrl K")

    def _paint_menu(self, painter: QPainter) -> None:
        rect = self.menu_rect()
        pen = QPen(QColor(palette().on_band), 1.8)
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        middle = rect.center()
        for y in (-5, 0, 5):
            painter.drawLine(middle + QPointF(-8, y), middle + QPointF(8, y))

    def _paint_line(self, painter: QPainter) -> None:
        first, last = self.centre(0), self.centre(len(Station) - 1)
        painter.setPen(QPen(QColor("#3C4F5A"), 2.5))
        painter.drawLine(first, last)
        painter.setPen(QPen(QColor("#7FB3CB"), 2.5))
        painter.drawLine(first, self.centre(max(self.reached, self.current)))

    def _paint_station(self, painter: QPainter, station: int) -> None:
        p = palette()
        at = self.centre(station)
        here = station == self.current
        lit = station <= max(self.reached, self.current)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#FFFFFF" if here else "#7FB3CB" if lit else "#53656F"))
        radius = 8.5 if here else 6.0
        painter.drawEllipse(at, radius, radius)
        if here and self.hasFocus():
            painter.setPen(QPen(QColor("#7FB3CB"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, radius + 3, radius + 3)
        painter.setPen(QColor(p.on_band if here else p.band_quiet))
        painter.setFont(font(12, QFont.Weight.DemiBold if here else QFont.Weight.Normal))
        box = QRectF(at.x() - 50, 31, 100, 18)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, Station(station).title)
        if station in self.badges:
            count, verdict = self.badges[station]
            fill = {"lost": "#C8595C", "altered": "#B7791F"}.get(
                verdict, "#5D7482" if " " in verdict else "#3E8E69"
            )
            text = str(count)
            width = 13 + 7 * len(text)
            box = QRectF(at.x() + 9, 5, width, 16)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(fill))
            painter.drawRoundedRect(box, 8, 8)
            painter.setPen(QColor("#FFFFFF"))
            painter.setFont(font(11, QFont.Weight.DemiBold))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
