"""Python's search for rings of references, done while nobody waits for the window.

By itself it comes in the middle of whatever makes objects, in whichever thread, and keeps Python's lock for
as long as it takes: with a large model tenths of a second. Source: the gc module of Python's library
reference.
"""

from __future__ import annotations

import gc
from collections.abc import Callable

from PySide6.QtCore import QObject, QPoint, QTimer
from PySide6.QtGui import QCursor, QGuiApplication

__all__ = ["Collecting"]

_LOOK_MS = 5_000
_RESTS = 3
"""How many looks in a row have to find everything at rest."""

_WORTH = 30_000
"""New objects below which there is nothing to gain."""

_TOO_MANY = 3_000_000
"""New objects with which it no longer waits for a quiet moment."""


class Collecting(QObject):
    """Collects when no work has run and the pointer has rested for a while, or when there is too much.

    Args:
        is_busy: whether any work is running.
    """

    def __init__(self, is_busy: Callable[[], bool], parent: QObject) -> None:
        super().__init__(parent)
        self._is_busy = is_busy
        self._pointer = QPoint(-1, -1)
        self._at_rest = 0
        self._timer = QTimer(self, interval=_LOOK_MS)
        self._timer.timeout.connect(self.look)
        self._timer.start()
        gc.disable()

    def look(self) -> bool:
        """See whether it is time to collect, and do so; whether it was."""
        pointer, before = QCursor.pos(), self._pointer
        self._pointer = pointer
        new = gc.get_count()[0]
        rests = pointer == before and QGuiApplication.mouseButtons().value == 0 and not self._is_busy()
        self._at_rest = self._at_rest + 1 if rests else 0
        is_time = new > (_WORTH if self._at_rest >= _RESTS else _TOO_MANY)
        if is_time:
            gc.collect()
        return is_time
