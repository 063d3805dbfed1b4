"""Ending by a signal: windows are closed as their user would, so that nothing is left behind."""

from __future__ import annotations

import signal
import socket
from collections.abc import Callable

from PySide6.QtCore import QObject, QSocketNotifier

__all__ = ["SignalEnd"]

_ENDING = (signal.SIGTERM, signal.SIGINT, signal.SIGHUP)


class SignalEnd(QObject):
    """Hears signals that end a program; Python's own handlers would wait for Qt to come back to Python.

    Args:
        end: called once, in the main thread, with the exit status; a second signal ends at once.
    """

    def __init__(self, parent: QObject, end: Callable[[int], None]) -> None:
        super().__init__(parent)
        self._end = end
        self._heard, self._said = socket.socketpair()
        for side in (self._heard, self._said):
            side.setblocking(False)
        signal.set_wakeup_fd(self._said.fileno(), warn_on_full_buffer=False)
        for number in _ENDING:
            signal.signal(number, lambda *_: None)
        self._notifier = QSocketNotifier(self._heard.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._hear)

    def _hear(self) -> None:
        numbers = [number for number in self._heard.recv(64) if number in _ENDING]
        if numbers:
            for number in _ENDING:
                signal.signal(number, signal.SIG_DFL)
            self._notifier.setEnabled(False)
            self._end(128 + numbers[0])
