"""Lights what is under the pointer: the rim of the face, or the edge, drawn over the picture.

It is painted on top, so that the model need not be drawn again for every step of the pointer.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gondrel.ui.scene.bodies import Hit
from gondrel.ui.scene.marks import face_outline
from gondrel.ui.stage.overlay import OverPicture
from gondrel.ui.widgets.theme import palette

__all__ = ["HoverOutline"]

_MOST = 4_000
"""Stretches of a rim that are drawn at most; more would hold up the pointer."""


class HoverOutline(OverPicture):
    """Goes away when the camera moves."""

    def __init__(self, canvas: Any, parent: QWidget) -> None:
        super().__init__(canvas, parent)
        self.pane = 0
        self.lines: list[QLineF] = []
        self._lit: tuple[object, ...] = ()
        canvas.moved.connect(self.forget)

    def forget(self) -> None:
        """Light nothing."""
        if self._lit:
            self._lit, self.lines = (), []
            self.hide()

    def show_hit(self, pane: int, hit: Hit | None, edge: int | None) -> None:
        """Light what was hit in a pane: an edge, or the face; None for nothing."""
        if hit is None:
            self.forget()
            return
        lit = (pane, id(hit.placed), hit.face if edge is None else -1, edge)
        if lit == self._lit:
            return
        self._lit, self.pane = lit, pane
        mesh = hit.placed.mesh
        if edge is None:
            ends = face_outline(mesh, hit.face)
        else:
            points = mesh.line_of(edge)
            ends = np.stack([points[:-1], points[1:]], axis=1)
        if len(ends) > _MOST:
            ends = ends[:: len(ends) // _MOST + 1]
        seen = self.canvas.on_screen(pane, hit.placed.in_whole(ends.reshape(-1, 3))).reshape(-1, 4)
        self.lines = [QLineF(*line) for line in seen[np.isfinite(seen).all(axis=1)].tolist()]
        self.resize(self.canvas.size())
        self.setVisible(bool(self.lines))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.lines:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, width = self.canvas.pane_rect(self.pane)
        painter.setClipRect(QRectF(QPointF(left, 0), QPointF(left + width, self.height())))
        p = palette()
        for thick, colour in ((4.0, QColor(p.sheet)), (2.0, QColor(p.accent))):
            painter.setPen(QPen(colour, thick, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLines(self.lines)
