"""Headings, lines of text and hairlines."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QLabel

__all__ = ["empty_layout", "head", "plain", "quiet", "rule"]


def head(text: str) -> QLabel:
    """A small heading."""
    label = QLabel(text.upper())
    label.setProperty("role", "head")
    return label


def plain(text: str) -> QLabel:
    """A label that shows every sign of its text; names in files may look like markup."""
    label = QLabel(text)
    label.setTextFormat(Qt.TextFormat.PlainText)
    return label


def quiet(text: str) -> QLabel:
    """A line in the quiet colour that wraps and can be copied."""
    label = plain(text)
    label.setProperty("role", "quiet")
    label.setWordWrap(True)
    label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return label


def rule() -> QFrame:
    """A hairline."""
    line = QFrame()
    line.setProperty("role", "rule")
    return line


def empty_layout(layout: Any) -> None:
    """Take everything out of a layout and let it go."""
    while layout.count():
        item = layout.takeAt(0)
        widget, inner = item.widget(), item.layout()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
        elif inner is not None:
            empty_layout(inner)
