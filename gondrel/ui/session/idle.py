"""Work of other threads, done while the thread that draws has nothing to do."""

from __future__ import annotations

import sys
import threading
import time
from types import FrameType

from PySide6.QtCore import QAbstractEventDispatcher, QObject

__all__ = ["Idle"]

_AT_MOST = 0.02
"""Seconds that another thread gives way: a window that is never at rest must not keep it from its work."""

_AGAIN = 0.001


class Idle(QObject):
    """Knows whether the thread that draws runs any Python.

    Threads share Python's lock: one that packs, unpacks or gathers meanwhile makes the thread that draws
    wait for it at each call that lets the lock go. While the event loop waits, or paints without us, the
    innermost frame of that thread is the one that runs the loop. That its dispatcher is about to block says
    less: the usual one tells so before it hands out what is due.
    Source: sys.setswitchinterval and sys._current_frames of Python's library reference.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._loop: FrameType | None = None
        dispatcher = QAbstractEventDispatcher.instance()
        if dispatcher is not None:
            dispatcher.aboutToBlock.connect(self._turns)

    def give_way(self) -> None:
        """Wait until the thread that draws runs no Python, for a moment at most; in that thread not at
        all."""
        if threading.current_thread() is threading.main_thread():
            return
        end = time.perf_counter() + _AT_MOST
        while self._is_at_work() and time.perf_counter() < end:
            time.sleep(_AGAIN)

    def _is_at_work(self) -> bool:
        main = threading.main_thread().ident
        return main is not None and sys._current_frames().get(main) is not self._loop

    def _turns(self) -> None:
        """The frame that called this one runs the event loop."""
        self._loop = sys._getframe().f_back
