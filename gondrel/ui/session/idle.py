"""Work of other threads, done while the thread that draws has nothing to do."""

from __future__ import annotations

import os
import platform
import threading
import time
import weakref

from PySide6.QtCore import QAbstractEventDispatcher, QObject

__all__ = ["Idle"]

_AT_MOST = 0.02
"""Seconds that another thread gives way: a window that is never at rest must not keep it from its work."""

_AGAIN = 0.001

_POLLS = {"x86_64": (b"7", b"271"), "aarch64": (b"73",), "riscv64": (b"73",)}
"""Numbers of poll and ppoll, in which an event loop waits. Source: the kernel's tables of system calls,
arch/x86/entry/syscalls/syscall_64.tbl and include/uapi/asm-generic/unistd.h."""


class Idle(QObject):
    """Knows whether the thread that draws waits for something to happen.

    Threads share Python's lock: one that packs, unpacks or gathers meanwhile makes the thread that draws
    wait for it at each call that lets the lock go. The kernel tells in which call a thread waits. That the
    dispatcher of the event loop is about to block says less: the usual one tells so before it hands out
    what is due. It has to do where the kernel does not tell. (The frames that Python can give of another
    thread must not be asked for: what is looked at lives on for a moment, and what it holds would then be
    ended by the wrong thread.)
    Source: proc_pid_syscall(5) of the Linux manual.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._polls = _POLLS.get(platform.machine(), ())
        self._call = _call_of_main_thread() if self._polls else None
        if self._call is not None:
            weakref.finalize(self, os.close, self._call).atexit = False  # threads may ask to the last
        self._blocks = False
        dispatcher = QAbstractEventDispatcher.instance()
        if dispatcher is not None and self._call is None:
            dispatcher.aboutToBlock.connect(self._will_block)
            dispatcher.awake.connect(self._woke)

    def give_way(self) -> None:
        """Wait until the thread that draws waits too, for a moment at most; in that thread not at all."""
        if threading.current_thread() is threading.main_thread():
            return
        end = time.perf_counter() + _AT_MOST
        while self._is_at_work() and time.perf_counter() < end:
            time.sleep(_AGAIN)

    def _is_at_work(self) -> bool:
        if self._call is None:
            return not self._blocks
        return os.pread(self._call, 8, 0).partition(b" ")[0] not in self._polls

    def _will_block(self) -> None:
        self._blocks = True

    def _woke(self) -> None:
        self._blocks = False


def _call_of_main_thread() -> int | None:
    """The file in which the kernel says in which call the main thread is; none where it keeps that back."""
    try:
        told = os.open(f"/proc/self/task/{threading.main_thread().native_id}/syscall", os.O_RDONLY)
    except OSError:
        return None
    try:
        os.pread(told, 8, 0)
    except OSError:
        os.close(told)
        return None
    return told
