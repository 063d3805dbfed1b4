"""The legend of the deviation map."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame

from gondrel.core.reports.figures import Figures
from gondrel.ui.presenters.scale import Scale
from gondrel.ui.widgets.theme import font, palette, scaled

__all__ = ["Legend"]

_BAND = 18


class Legend(QFrame):
    """Bands of colour with their limits, and how the deviation was measured."""

    def __init__(self, parent: Any = None) -> None:
        super().__init__(parent)
        self.setObjectName("legend")
        self.scale = Scale((), ("#9DB8A8",))
        self.figures = Figures()
        self.lines: tuple[str, ...] = ()
        self.title = "Deviation"
        self.setFixedWidth(scaled(152))
        self.hide()

    def show_scale(
        self, scale: Scale, figures: Figures, lines: tuple[str, ...], title: str = "Deviation"
    ) -> None:
        """Take the bands, the words below them and what is told over them."""
        self.title = title
        self.scale, self.figures, self.lines = scale, figures, lines
        self.setFixedSize(scaled(152), 34 + _BAND * len(scale.names) + scaled(15) * len(lines) + 12)
        self.setAccessibleName(f"{title} legend: " + "; ".join(lines))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        p = palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QColor(p.quiet))
        painter.setFont(font(11))
        painter.drawText(QRectF(12, 8, self.width() - 20, 18), Qt.AlignmentFlag.AlignVCenter, self.title)
        top = 30
        names = list(reversed(self.scale.names))
        for row, name in enumerate(names):
            rect = QRectF(12, top + row * _BAND, 14, _BAND)
            painter.fillRect(rect, QColor(name))
            painter.setPen(QColor(p.ink))
            painter.drawText(
                QRectF(34, rect.top(), self.width() - 40, _BAND), Qt.AlignmentFlag.AlignVCenter,
                self._limit(len(names) - 1 - row),
            )  # fmt: skip
        painter.setPen(QColor(p.quiet))
        painter.setFont(font(10))
        for row, line in enumerate(self.lines):
            at = top + len(names) * _BAND + 6 + row * scaled(15)
            painter.drawText(
                QRectF(12, at, self.width() - 16, scaled(15)), Qt.AlignmentFlag.AlignVCenter, line
            )

    def _limit(self, band: int) -> str:
        limits = self.scale.limits
        if not limits:
            return "surfaces coincide"
        if band >= len(limits):
            return f"above {_short(limits[-1], self.figures)}"
        return f"to {_short(limits[band], self.figures)}"


def _short(mm: float, figures: Figures) -> str:
    value = mm / 25.4 if figures.is_inch else mm
    return f"{value:.3g} {'in' if figures.is_inch else 'mm'}"
