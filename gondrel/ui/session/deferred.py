"""Work of the window cut into turns of the event loop, so that none of them is felt."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

__all__ = ["Deferred", "HandingOn"]

_AT_A_TIME = 0.012
"""Seconds in which what came is handed on before anything else has its turn."""

_APART_MS = 12
"""Time between two acts: what the one changed is painted before the other begins."""


class Deferred(QObject):
    """Runs what was asked for one by one, each once however often it was asked for meanwhile."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._waiting: dict[Callable[[], None], None] = {}
        self._next = QTimer(self, singleShot=True, interval=_APART_MS)
        self._next.timeout.connect(self._run)

    @property
    def waiting(self) -> bool:
        """Whether an act has still to run."""
        return bool(self._waiting)

    def ask(self, act: Callable[[], None]) -> None:
        """Run an act soon, in a turn of its own."""
        self._waiting[act] = None
        if not self._next.isActive():
            self._next.start()

    def _run(self) -> None:
        act = next(iter(self._waiting), None)
        if act is None:
            return
        del self._waiting[act]
        try:
            act()
        finally:
            if self._waiting:
                self._next.start()  # from the end of the act on, so that it is painted in between


class HandingOn(QObject):
    """Hands on what comes from other threads in the main one, in its order and for a while at a time."""

    _came = Signal()

    def __init__(self, take: Callable[..., None], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._take = take
        self._waiting: deque[tuple[Any, ...]] = deque()
        self._turn = QTimer(self, singleShot=True)
        self._turn.timeout.connect(self._hand_on)
        self._came.connect(self._begin)

    def add(self, *values: Any) -> None:
        """Have values handed on in their turn; in any thread."""
        self._waiting.append(values)
        with suppress(RuntimeError):  # the window is gone
            self._came.emit()

    def _begin(self) -> None:
        if not self._turn.isActive():
            self._turn.start()

    def _hand_on(self) -> None:
        end = time.perf_counter() + _AT_A_TIME
        while self._waiting:
            self._take(*self._waiting.popleft())
            if time.perf_counter() > end:
                break
        if self._waiting:
            self._turn.start()
