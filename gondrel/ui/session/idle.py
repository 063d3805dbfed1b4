"""Work of other threads, done while the thread that draws has nothing to do."""

from __future__ import annotations

import threading

from PySide6.QtCore import QAbstractEventDispatcher, QObject

__all__ = ["Idle"]

_AT_MOST = 0.02
"""Seconds that another thread gives way: a window that is never at rest must not keep it from its work."""


class Idle(QObject):
    """Knows whether the event loop waits for something to do.

    Threads share Python's lock: one that packs, unpacks or gathers meanwhile makes the thread that draws
    wait for it at each call that lets the lock go, up to 5 ms each time.
    Source: sys.setswitchinterval of Python's library reference.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._waits = threading.Event()
        self._waits.set()
        dispatcher = QAbstractEventDispatcher.instance()
        if dispatcher is not None:
            dispatcher.aboutToBlock.connect(self._wait_begins)
            dispatcher.awake.connect(self._wait_ends)

    def give_way(self) -> None:
        """Wait until the event loop waits, for a moment at most; in the thread that draws not at all."""
        if threading.current_thread() is not threading.main_thread():
            self._waits.wait(_AT_MOST)

    def _wait_begins(self) -> None:
        self._waits.set()

    def _wait_ends(self) -> None:
        self._waits.clear()
