"""A picture of the stage as a file: with a scale bar, on the backdrop or on a ground seen through."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from gondrel.core.reports.figures import Figures
from gondrel.ui.scene.canvas import Canvas
from gondrel.ui.widgets.theme import font, palette

__all__ = ["picture_of", "scale_length"]

_MARGIN, _SHARE = 18, 0.22
_ROUND = (1.0, 2.0, 5.0, 10.0)


def scale_length(height: float, share: float = _SHARE) -> float:
    """A round length of about a share of what is seen from bottom to top."""
    wanted = max(height * share, 1e-9)
    power = 10.0 ** math.floor(math.log10(wanted))
    return max((m * power for m in _ROUND if m * power <= wanted * 1.0001), default=power)


def picture_of(canvas: Canvas, show: Figures, *, is_clear: bool, with_scale: bool) -> QImage:
    """The panes as they are seen now.

    Args:
        is_clear: whether the ground is seen through; with_scale: whether a bar tells the scale, which in
            perspective holds at the depth of the point that is looked at.
    """
    image = canvas.whole_picture(is_clear=is_clear)
    if with_scale:
        _add_scale(image, canvas, show)
    return image


def _add_scale(image: QImage, canvas: Canvas, show: Figures) -> None:
    p = palette()
    ratio = image.height() / max(canvas.height(), 1)
    focal = np.array(canvas.camera.GetFocalPoint())
    millimetre = canvas.height() / max(canvas.size_of_pixels(focal, canvas.height()), 1e-12)
    unit, name = (25.4, "in") if show.is_inch else (1.0, "mm")
    length = scale_length(canvas.height() / millimetre / unit) * unit
    width = length * millimetre
    painter = QPainter(image)
    painter.scale(ratio, ratio)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    left, y = float(_MARGIN), canvas.height() - _MARGIN - 4.0
    text = f"{length / unit:g} {name}"
    if not canvas.camera.GetParallelProjection():
        text += " at the middle"
    painter.setFont(font(12))
    room = painter.fontMetrics().horizontalAdvance(text)
    ground = QRectF(left - 8, y - 26, max(width, room) + 16, 36)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(p.sheet))
    painter.setOpacity(0.85)
    painter.drawRoundedRect(ground, 4, 4)
    painter.setOpacity(1.0)
    painter.setPen(QPen(QColor(p.ink), 1.6))
    painter.drawLine(QPointF(left, y), QPointF(left + width, y))
    for x in (left, left + width):
        painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
    painter.drawText(QPointF(left, y - 9), text)
    painter.end()
