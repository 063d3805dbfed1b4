"""Work of the window cut into turns of the event loop, so that none of them is felt."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

__all__ = ["Deferred"]

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
