"""Persistence a crossing: saving, opening, autosave, and recovery after a crash."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import count
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.service.crossing import (
    SUFFIX,
    Crossing,
    autosaves,
    save_crossing,
)
from gondrel.core.work.files import state_folder
from gondrel.ui.session.host import SessionHost

__all__ = ["Lost", "Persistence", "lost_crossings", "state_folder"]

_OPEN = "gondrel.core.service.opening:open_crossing"
_AUTOSAVE_MS = 20_000
_serials = count(1)


@dataclass(frozen=True, slots=True)
class Lost:
    """A crossing that was open and unsaved when the application ended without closing it."""

    path: Path
    name: str
    when: datetime


def lost_crossings() -> list[Lost]:
    """Crossings that can be recovered, newest first."""
    lost = []
    for path in autosaves(state_folder() / "autosave"):
        name = path.stem.rsplit("-", 2)[0]
        lost.append(Lost(path, name, datetime.fromtimestamp(path.stat().st_mtime)))
    return lost


class Persistence(QObject):
    """Saves and opens the crossing of one session, aside from the main thread."""

    _ended = Signal(object, object)

    def __init__(self, session: SessionHost, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.path: Path | None = None
        self.is_dirty = False
        self.busy = 0
        self._serial = next(_serials)
        self._kept: object = None
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="gondrel-keeping")
        self._ended.connect(self._take)
        self._timer = QTimer(self, interval=_AUTOSAVE_MS)
        self._timer.timeout.connect(self.autosave)
        self._timer.start()

    def begin(self, path: Path | None, dirty: bool) -> None:
        """A crossing was opened from a file, or made anew."""
        self.path, self.is_dirty = path, dirty

    def touch(self) -> None:
        """The crossing was changed."""
        self.is_dirty = True

    def save(self, path: Path) -> None:
        """Save the crossing. An error is told; the old file is then untouched."""
        session, crossing = self.session, self.session.crossing

        def saved(_: object) -> None:
            self.path = path
            if session.crossing is crossing:
                self.is_dirty = False
                self.drop_autosave()
            self._remember(path)
            session.notice.emit(f"Saved {path.name} at {datetime.now():%H:%M}")

        self._aside(lambda: self._write(crossing, path), saved)

    def load(self, path: Path) -> None:
        """Open a saved crossing; what is open stays when that fails."""

        def loaded(crossing: Crossing) -> None:
            self.session.take_crossing(crossing, path, dirty=False)
            self._remember(path)
            self.session.notice.emit(f"Opened {path.name}")

        self._open(path, loaded)

    def _open(self, path: Path, loaded: Callable[[Crossing], None]) -> None:
        """Have a crossing looked at in a worker; errors are told, and what is open stays."""
        args = (str(path), self.session.folder)
        self.session.run_job(_OPEN, args, f"opening {path.name}", loaded)

    def recover(self, lost: Lost) -> None:
        """Open what was lost as a crossing that is not saved yet; its copy goes once ours is kept."""

        def loaded(crossing: Crossing) -> None:
            self.session.take_crossing(replace(crossing, name=lost.name), None, dirty=True)
            self.autosave(lambda: lost.path.unlink(missing_ok=True))
            self.session.notice.emit(f"Recovered {lost.name} as it was at {lost.when:%H:%M on %d %b}")

        self._open(lost.path, loaded)

    def autosave_path(self) -> Path:
        """Where this session is autosaved."""
        folder = state_folder() / "autosave"
        folder.mkdir(exist_ok=True, mode=0o700)
        name = self.session.crossing.name.replace("/", "_")
        return folder / f"{name}-{self._serial}-{os.getpid()}{SUFFIX}"

    def autosave(self, then: Callable[[], None] = lambda: None) -> None:
        """Keep a copy for recovery when there is something unsaved that is not kept yet."""
        session, crossing, path = self.session, self.session.crossing, self.autosave_path()
        if not self.is_dirty or session.model is None or crossing is self._kept or self.busy:
            return

        def kept(_: object) -> None:
            self._kept = crossing
            then()

        self._aside(lambda: self._write(crossing, path, private=True), kept)

    def drop_autosave(self) -> None:
        """Let go of the copies for recovery of this session."""
        self._kept = None
        for old in (state_folder() / "autosave").glob(f"*-{self._serial}-{os.getpid()}{SUFFIX}"):
            old.unlink(missing_ok=True)

    @property
    def has_own_work(self) -> bool:
        """Whether there is something unsaved that receiving the file again would not bring back."""
        crossing = self.session.crossing
        return self.is_dirty and (len(crossing.history.steps) > 1 or crossing.sent is not None)

    def close(self) -> None:
        """End autosaving. Unsaved work stays to be recovered; without any nothing is left behind."""
        self._timer.stop()
        if self.has_own_work:
            self.autosave()
        self._pool.shutdown(wait=True)
        if not self.has_own_work:
            self.drop_autosave()

    def _write(self, crossing: Crossing, path: Path, *, private: bool = False) -> None:
        give_way = self.session.tasks.idle.give_way
        save_crossing(crossing, path, self.session.store, private=private, give_way=give_way)

    def _remember(self, path: Path) -> None:
        settings = self.session.settings
        settings.change(recent=settings.now.with_recent(str(path)).recent)

    def _aside(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Do file work in the thread; done, or the telling of an error, comes in the main thread."""
        self.busy += 1

        def run() -> None:
            try:
                result: Any = work()
            except GondrelError as error:
                result = error
            except Exception as error:  # whatever it is, keeping goes on and it is told
                result = GondrelError(f"an internal error stopped keeping the crossing: {error}")
            self._ended.emit(done, result)

        self._pool.submit(run)

    def _take(self, done: Callable[[Any], None], result: Any) -> None:
        self.busy -= 1
        if isinstance(result, GondrelError):
            self.session.tell_error(result)
        else:
            done(result)
