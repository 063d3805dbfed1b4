"""Points at a finding in the stage: a halo round the place and a leader to what was found there."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gondrel.core.model.findings import Finding
from gondrel.ui.presenters.findings import SEVERITY_VERDICT
from gondrel.ui.stage.overlay import OverPicture
from gondrel.ui.widgets.theme import palette, verdict_colour

__all__ = ["FindingPointer", "severity_colour"]

_HALO = 17.0
_LABEL_SHARE = 0.85
_NEAR_SHARE = 1 / 12
"""How much of a body's size is seen round a finding when it is flown to."""


def severity_colour(finding: Finding) -> QColor:
    """The colour a finding is drawn in."""
    return QColor(verdict_colour(SEVERITY_VERDICT[finding.severity.value]))


class FindingPointer(OverPicture):
    """Follows the camera."""

    def __init__(self, canvas: Any, parent: QWidget) -> None:
        super().__init__(canvas, parent)
        self.finding: Finding | None = None
        self.at: np.ndarray | None = None
        canvas.moved.connect(self.update)

    def show_finding(
        self,
        finding: Finding,
        placement: tuple[float, ...],
        box: np.ndarray,
        fly: Callable[[list[Any]], None],
        around: np.ndarray | None = None,
    ) -> None:
        """Fly to a finding and point at it.

        Args:
            placement: of its body in the whole; box: (2, 3) of its body in the whole; fly: fits boxes;
                around: (2, 3) of all that is concerned, in the whole, which is to be seen too.
        """
        self.finding = finding
        size = float(np.linalg.norm(box[1] - box[0]))
        if finding.point is None:
            self.at = None
            self.hide()
            fly([box])
            return
        matrix = np.asarray(placement, float).reshape(4, 4)
        self.at = matrix[:3, :3] @ np.asarray(finding.point) + matrix[:3, 3]
        half = max(size * _NEAR_SHARE, 1e-3)
        near = np.stack([self.at - half, self.at + half])
        fly([near] if around is None else [near, around])
        self.resize(self.canvas.size())
        self.show()
        self.raise_()
        self.update()

    def forget(self) -> None:
        """Point at nothing."""
        self.finding, self.at = None, None
        self.hide()

    def place(self) -> QPointF | None:
        """Where the finding is on screen."""
        if self.at is None:
            return None
        ((x, y),) = self.canvas.on_screen(0, self.at[None]).tolist()
        return QPointF(x, y) if math.isfinite(x) else None

    def paintEvent(self, event: QPaintEvent) -> None:
        at = self.place()
        if at is None or self.finding is None:
            return
        p = palette()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colour = severity_colour(self.finding)
        for width, shown in ((6.0, QColor(p.sheet)), (2.5, colour)):
            painter.setPen(QPen(shown, width))
            painter.drawEllipse(at, _HALO, _HALO)
        text = f"{self.finding.code}  {self.finding.text}"
        font = QFont(self.font())
        font.setPixelSize(12)
        painter.setFont(font)
        metrics = QFontMetricsF(font)
        shown_text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, self.width() * _LABEL_SHARE)
        room = metrics.horizontalAdvance(shown_text) + 20
        to_right = at.x() + 60 + room < self.width()
        corner = QPointF(at.x() + (44 if to_right else -44), max(at.y() - 52, 20))
        left = corner.x() if to_right else corner.x() - room
        left = min(max(left, 8.0), max(self.width() - room - 8.0, 8.0))
        label = QRectF(left, corner.y() - 13, room, 26)
        away = corner - at
        start = at + away * (_HALO / max((away.x() ** 2 + away.y() ** 2) ** 0.5, 1.0))
        for width, shown in ((5.0, QColor(p.sheet)), (2.0, colour)):
            painter.setPen(QPen(shown, width))
            painter.drawLine(start, corner)
        painter.setPen(QPen(colour, 1.5))
        painter.setBrush(QColor(p.sheet))
        painter.drawRoundedRect(label, 5, 5)
        painter.setPen(QColor(p.ink))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, shown_text)
