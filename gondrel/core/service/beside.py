"""Bodies measured in a copy of this process while the rest of their file is read."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from gondrel.core.kernel.derive import facts_of
from gondrel.core.model.store import BlobStore
from gondrel.core.work import Aside, Progress, begin_aside

__all__ = ["measuring_beside"]

_WORTH_A_PROCESS = 20
"""Bodies that come before a process is begun for them."""

_LENGTH = 64


class _Beside:
    """Takes the hashes of bodies as they are stored, and measures them in the order in which they come."""

    def __init__(self, store_folder: str) -> None:
        self._store = BlobStore(Path(store_folder))
        self._waiting: list[str] = []
        self._pipe = -1
        self._aside: Aside | None = None

    def take(self, key: str) -> None:
        """Let a stored body be measured."""
        self._waiting.append(key)
        if self._aside is None and len(self._waiting) >= _WORTH_A_PROCESS:
            read, self._pipe = os.pipe()
            os.set_blocking(self._pipe, False)
            self._aside = begin_aside(lambda: self._measured(read))
            os.close(read)
        if self._aside is not None:
            self._hand_over()

    def _hand_over(self) -> None:
        """Tell what waits but the newest, of which the reader may have more to say; where the pipe is full
        or nobody reads, it is measured later as any other."""
        *ready, newest = self._waiting
        try:
            for key in ready:
                os.write(self._pipe, key.encode("ascii"))
        except OSError:
            pass
        self._waiting = [newest]

    def _measured(self, read: int) -> Iterator[bytes]:
        """Measure what comes, in the copy. The measures lie in the store; nothing else is told."""
        os.close(self._pipe)
        os.nice(1)  # the reader goes first where processors are short
        with os.fdopen(read, "rb") as stream:
            while len(key := stream.read(_LENGTH)) == _LENGTH:
                facts_of(self._store, key.decode("ascii"))
        yield b""

    def close(self) -> None:
        """End what is still being measured."""
        if self._aside is not None:
            os.close(self._pipe)
            self._aside.end()


@contextmanager
def measuring_beside(store_folder: str, progress: Progress) -> Iterator[Progress]:
    """A progress for reading files: bodies that are handed out through it are measured meanwhile.

    Inside, measure_all finds in the store what was measured, and does the rest from the other end.
    """
    if (os.cpu_count() or 1) < 2:
        yield progress
        return
    beside = _Beside(store_folder)

    def heard(partial: object) -> None:
        progress.give(partial)
        if isinstance(partial, tuple) and partial[:1] == ("body",):
            beside.take(str(partial[1]))

    try:
        yield progress.hearing(heard)
    finally:
        beside.close()
