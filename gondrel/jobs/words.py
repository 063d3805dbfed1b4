"""The last words of a worker: what it was about to do, in memory that outlives it."""

from __future__ import annotations

import mmap
import os

__all__ = ["LastWords"]

_SIZE = 512


class LastWords:
    """A line of text that one process writes and another reads, also after the first has died."""

    def __init__(self, handle: int) -> None:
        self.handle = handle
        self._memory = mmap.mmap(handle, _SIZE)

    @classmethod
    def new(cls) -> LastWords:
        """Memory of its own, whose handle can be passed on."""
        handle = os.memfd_create("last-words", 0)
        os.ftruncate(handle, _SIZE)
        return cls(handle)

    def say(self, text: str) -> None:
        """Put another text there."""
        data = text.encode("utf-8", "replace")[: _SIZE - 2]
        self._memory[: len(data) + 1] = data + b"\0"

    @property
    def text(self) -> str:
        """What was said last."""
        return self._memory[:].partition(b"\0")[0].decode("utf-8", "replace")

    def close(self) -> None:
        """Let go of the memory."""
        self._memory.close()
        os.close(self.handle)
