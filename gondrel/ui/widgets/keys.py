"""Keys that belong to the field they are pressed in, not to the window's shortcuts."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractSlider, QAbstractSpinBox, QApplication, QComboBox, QWidget

__all__ = ["OwnKeys"]

_FIELDS = (QComboBox, QAbstractSlider, QAbstractSpinBox)
_MOVES = frozenset(
    (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End,
     Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)
)  # fmt: skip


class OwnKeys(QObject):
    """Lets boxes and sliders have the arrows, and boxes the letters that choose in them, as soon as
    they have the focus: without it the arrows would turn the picture."""

    def __init__(self, application: QApplication) -> None:
        super().__init__(application)
        application.focusChanged.connect(self._follow)

    def _follow(self, old: QWidget | None, new: QWidget | None) -> None:
        if isinstance(old, _FIELDS):
            old.removeEventFilter(self)
        if isinstance(new, _FIELDS):
            new.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() is not QEvent.Type.ShortcutOverride or not isinstance(event, QKeyEvent):
            return False
        held = event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier & ~Qt.KeyboardModifier.KeypadModifier
        is_letter = isinstance(watched, QComboBox) and event.text().isalnum()
        if held or not (event.key() in _MOVES or is_letter):
            return False
        event.accept()
        return True
