"""What is painted over the picture without drawing the model again."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

__all__ = ["OverPicture"]


class OverPicture(QWidget):
    """Lies over the canvas and lets everything through; hidden at first."""

    def __init__(self, canvas: Any, parent: QWidget) -> None:
        super().__init__(parent)
        self.canvas = canvas
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.hide()
