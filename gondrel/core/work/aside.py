"""Work done aside, in a copy of this process, while it goes on with something else."""

from __future__ import annotations

import ctypes
import os
import select
import signal
import traceback
from collections.abc import Callable, Iterable

__all__ = ["Aside", "begin_aside"]

_PARENT_DEATH = 1
"""PR_SET_PDEATHSIG of Linux: the signal a process gets when its parent ends (prctl(2))."""

_CHUNK = 1 << 20
_PULSE = 0.1


class Aside:
    """Work that is being done, and what it has told so far."""

    def __init__(self, pid: int, pipe: int) -> None:
        self._pid = pid
        self._pipe = pipe
        self._heard = b""
        self._is_over = False

    def part(self, pulse: Callable[[], None]) -> bytes | None:
        """The next part that the work tells, None when there is none any more, or the work failed.

        Args:
            pulse: called several times a second while waiting; may raise to end the work.
        """
        size = self._read(8, pulse)
        return None if size is None else self._read(int.from_bytes(size, "little"), pulse)

    def _read(self, count: int, pulse: Callable[[], None]) -> bytes | None:
        """So many bytes, None when the work ends before. Raises what the pulse raises."""
        chunks, missing = [self._heard], count - len(self._heard)
        while missing > 0 and not self._is_over:
            try:
                ready, _, _ = select.select([self._pipe], [], [], _PULSE)
                pulse()
                chunk = os.read(self._pipe, _CHUNK) if ready else b"?"
            except BaseException:
                self.end()
                raise
            if not chunk:
                self.end()
            elif ready:
                chunks.append(chunk)
                missing -= len(chunk)
        whole = b"".join(chunks)
        self._heard = whole[count:]
        return whole[:count] if len(whole) >= count else None

    def end(self) -> None:
        """End the work if it still goes on."""
        if self._is_over:
            return
        self._is_over = True
        os.close(self._pipe)
        try:
            if os.waitpid(self._pid, os.WNOHANG)[0] == 0:
                os.kill(self._pid, signal.SIGKILL)
                os.waitpid(self._pid, 0)
        except ChildProcessError:
            return


def begin_aside(work: Callable[[], Iterable[bytes]]) -> Aside:
    """Begin some work in a copy of this process; it ends with this one at the latest.

    Args:
        work: yields what it tells, part by part. It must not use the kernel's shapes of this process, nor
            write anything.
    """
    read, write = os.pipe()
    parent = os.getpid()
    pid = os.fork()
    if pid:
        os.close(write)
        return Aside(pid, read)
    code = 1
    try:
        os.close(read)
        ctypes.CDLL(None).prctl(_PARENT_DEATH, signal.SIGKILL)
        if os.getppid() == parent:
            for part in work():
                _tell(write, len(part).to_bytes(8, "little") + part)
            code = 0
    except Exception:
        traceback.print_exc()
    finally:
        os._exit(code)


def _tell(pipe: int, data: bytes) -> None:
    view = memoryview(data)
    while view:
        view = view[os.write(pipe, view) :]
