"""Work done aside, in a copy of this process, while it goes on with something else."""

from __future__ import annotations

import os
import select
import signal
import traceback
from collections.abc import Callable, Iterable

from gondrel.core.work.parent import end_with_parent

__all__ = ["Aside", "begin_aside"]

_SIZE = 8
_PULSE = 0.1


class Aside:
    """Work that is being done, and what it has told so far.

    Its parts lie in memory that both processes see, so that the work never waits for them to be read;
    only their sizes come through the pipe.
    """

    def __init__(self, pid: int, pipe: int, store: int) -> None:
        self._pid = pid
        self._pipe = pipe
        self._store = store
        self._read = 0
        self._is_over = False

    def part(self, pulse: Callable[[], None]) -> bytes | None:
        """The next part that the work tells, None when there is none any more, or the work failed.

        Args:
            pulse: called several times a second while waiting; may raise to end the work.
        """
        if self._is_over:
            return None
        try:
            while not select.select([self._pipe], [], [], _PULSE)[0]:
                pulse()
        except BaseException:
            self.end()
            raise
        size = os.read(self._pipe, _SIZE)
        if len(size) < _SIZE:
            self.end()
            return None
        end, chunks = self._read + int.from_bytes(size, "little"), []
        while self._read < end:
            chunks.append(os.pread(self._store, end - self._read, self._read))
            self._read += len(chunks[-1])
        return b"".join(chunks)

    def is_ready(self) -> bool:
        """Whether the next part need not be waited for."""
        return not self._is_over and bool(select.select([self._pipe], [], [], 0)[0])

    def end(self) -> None:
        """End the work if it still goes on."""
        if self._is_over:
            return
        self._is_over = True
        os.close(self._pipe)
        os.close(self._store)
        try:
            if os.waitpid(self._pid, os.WNOHANG)[0] == 0:
                os.kill(self._pid, signal.SIGKILL)
                os.waitpid(self._pid, 0)
        except ChildProcessError:
            return


def begin_aside(work: Callable[[], Iterable[bytes]]) -> Aside:
    """Begin some work in a copy of this process; it ends with this one at the latest.

    Args:
        work: yields what it tells, part by part. It must not change the kernel's shapes of this process,
            nor write anything.
    """
    read, write = os.pipe()
    store = os.memfd_create("aside", os.MFD_CLOEXEC)
    parent = os.getpid()
    pid = os.fork()
    if pid:
        os.close(write)
        return Aside(pid, read, store)
    code = 1
    try:
        os.close(read)
        if end_with_parent(parent):
            at = 0
            for part in work():
                at = _keep(store, part, at)
                os.write(write, len(part).to_bytes(_SIZE, "little"))
            code = 0
    except Exception:
        traceback.print_exc()
    finally:
        os._exit(code)


def _keep(store: int, data: bytes, at: int) -> int:
    """Write a part at an offset, which both processes share and neither may move; where it ends."""
    view = memoryview(data)
    while view:
        written = os.pwrite(store, view, at)
        view, at = view[written:], at + written
    return at
