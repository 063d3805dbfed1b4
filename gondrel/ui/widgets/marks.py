"""Verdict marks: shape and colour together, drawn for this application."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap, QPolygonF

from gondrel.ui.widgets.theme import palette, verdict_colour

__all__ = ["draw_mark", "mark_icon"]


def draw_mark(painter: QPainter, verdict: str, centre: QPointF, size: float) -> None:
    """Draw a verdict: a disc with a tick, a half disc, a diamond with a bar, a plus, a ring."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    colour, light = QColor(verdict_colour(verdict)), QColor(palette().sheet)
    verdict = verdict.partition(" ")[0]  # what was announced keeps its shape
    r = size / 2
    circle = QRectF(centre.x() - r, centre.y() - r, size, size)
    pen = QPen(light, size * 0.14)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    painter.setPen(Qt.PenStyle.NoPen)
    if verdict in ("carried", "clean"):
        painter.setBrush(colour)
        painter.drawEllipse(circle)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(
            [
                centre + QPointF(-r * 0.45, 0),
                centre + QPointF(-r * 0.1, r * 0.35),
                centre + QPointF(r * 0.45, -r * 0.35),
            ]
        )
    elif verdict in ("altered", "doubt"):
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour, size * 0.13))
        inner = circle.adjusted(1, 1, -1, -1)
        painter.drawEllipse(inner)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawPie(inner, -90 * 16, 180 * 16)
    elif verdict in ("lost", "fault"):
        painter.setBrush(colour)
        k = r * 1.18
        painter.drawPolygon(
            QPolygonF(
                [
                    centre + QPointF(0, -k),
                    centre + QPointF(k, 0),
                    centre + QPointF(0, k),
                    centre + QPointF(-k, 0),
                ]
            )
        )
        painter.setPen(pen)
        painter.drawLine(centre + QPointF(-r * 0.4, 0), centre + QPointF(r * 0.4, 0))
    elif verdict == "added":
        painter.setBrush(colour)
        painter.drawRoundedRect(circle, 2, 2)
        painter.setPen(pen)
        painter.drawLine(centre + QPointF(-r * 0.45, 0), centre + QPointF(r * 0.45, 0))
        painter.drawLine(centre + QPointF(0, -r * 0.45), centre + QPointF(0, r * 0.45))
    else:
        dotted = QPen(colour, max(size * 0.1, 1.0))
        dotted.setStyle(Qt.PenStyle.DotLine)
        painter.setPen(dotted)
        painter.drawEllipse(circle.adjusted(1.5, 1.5, -1.5, -1.5))
    painter.restore()


def mark_icon(verdict: str, size: int = 14) -> QIcon:
    """The mark as an icon."""
    pixmap = QPixmap(size * 2, size * 2)
    pixmap.setDevicePixelRatio(2.0)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    draw_mark(painter, verdict, QPointF(size / 2, size / 2), size * 0.8)
    painter.end()
    return QIcon(pixmap)
