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

_PATIENCE = 0.15
"""Seconds for which an act stands back for what comes from other threads."""

_SAME_TURN = 0.001
"""Seconds within which timers that are due follow each other without anything painted in between."""


class Deferred(QObject):
    """Runs what was asked for one by one, each once however often it was asked for meanwhile."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._waiting: dict[Callable[[], None], None] = {}
        self._next = QTimer(self, singleShot=True, interval=_APART_MS)
        self._next.timeout.connect(self._run)
        self._due_since = 0.0
        self._ended = 0.0

    @property
    def waiting(self) -> bool:
        """Whether an act has still to run."""
        return bool(self._waiting)

    def ask(self, act: Callable[[], None]) -> None:
        """Run an act soon, in a turn of its own."""
        self._waiting[act] = None
        if not self._next.isActive():
            self._begin()

    def _begin(self) -> None:
        self._due_since = time.perf_counter()
        self._next.start()

    def stand_back(self) -> None:
        """Have what waits run in a later turn than this one, which something else took."""
        if self._next.isActive():
            self._next.start()

    @property
    def goes_first(self) -> bool:
        """Whether this turn is that of an act: one ended just now, and what it changed is not painted yet,
        or has waited long."""
        now = time.perf_counter()
        is_late = self._next.isActive() and now - self._due_since > _PATIENCE
        return is_late or now - self._ended < _SAME_TURN

    def _run(self) -> None:
        act = next(iter(self._waiting), None)
        if act is None:
            return
        del self._waiting[act]
        try:
            act()
        finally:
            self._ended = time.perf_counter()
            if self._waiting:
                self._begin()  # from the end of the act on, so that it is painted in between


class HandingOn(QObject):
    """Hands on what comes from other threads in the main one, in its order and for a while at a time, and
    not in the turn of an act that was deferred."""

    _came = Signal()

    def __init__(
        self, take: Callable[..., None], deferred: Deferred, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._take, self._deferred = take, deferred
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
            self._turn.start(0)

    def _hand_on(self) -> None:
        if self._deferred.goes_first:
            self._turn.start(1)
            return
        end = time.perf_counter() + _AT_A_TIME
        while self._waiting:
            self._take(*self._waiting.popleft())
            if time.perf_counter() > end:
                break
        self._deferred.stand_back()
        if self._waiting:
            self._turn.start(0)
