"""A small picture of something that is listed beside it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QLabel, QWidget

__all__ = ["Preview"]


class Preview(QLabel):
    """A picture at its own size or smaller, or a word where there is none."""

    def __init__(self, width: int, height: int, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("preview")
        self.setFixedSize(width, height)
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setAccessibleName(name)
        self.setProperty("role", "quiet")

    def show_picture(self, png: bytes | None, otherwise: str = "") -> None:
        """Show a PNG, or say why there is none."""
        picture = QPixmap()
        if png is None or not picture.loadFromData(png):
            self.setText(otherwise)
            return
        ratio = self.devicePixelRatioF()
        fitted = picture.scaled(
            (self.size() * ratio), Qt.AspectRatioMode.KeepAspectRatio,
            Qt.TransformationMode.SmoothTransformation,
        )  # fmt: skip
        fitted.setDevicePixelRatio(ratio)
        self.setPixmap(fitted)
