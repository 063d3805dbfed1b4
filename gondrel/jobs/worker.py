"""One warm worker process, seen from the application: start, run, cancel, limits, restart."""

from __future__ import annotations

import collections
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from multiprocessing.connection import Connection
from typing import Any

from gondrel.core.errors import KernelCrashed, LimitExceeded
from gondrel.core.work import Cancelled
from gondrel.jobs.limits import resident_megabytes
from gondrel.jobs.messages import Done, Failed, Job, Ready, Stopped
from gondrel.jobs.packing import pack, unpack
from gondrel.jobs.words import LastWords

__all__ = ["CANCEL_GRACE", "Worker", "run_blocking"]

CANCEL_GRACE = 1.5
"""Seconds a cancelled job gets to end by itself before its process is ended."""

STOPPED_GRACE = 20.0
"""Seconds a process may stand still on a signal before it is ended."""

_OWN_FAULTS = (signal.SIGSEGV, signal.SIGABRT, signal.SIGFPE, signal.SIGILL, signal.SIGBUS)
"""Signals that a process gets for what it does itself."""

_MOST_DEATHS = 25
"""How many steps of a job may end the process before it is given up."""

_CAN_GO, _STEP_SHARE = "Making ", 1 / 3
"""How steps begin that a reader can leave out, and the share of a job's time that one may take."""

_WATCH = 0.1
_LONG = 20_000
"""Bytes of a message from which on unpacking it takes a millisecond and more."""

_START_LIMIT = 120.0

Listener = Callable[[Any], None]


def _at_once() -> None:
    """For what is not worth giving way."""


class Worker:
    """A worker process. One job at a time; messages go to the listener given with the job.

    The listener is called in a thread of the worker's own. After a crash, a limit or a forced
    cancel the process is started anew by the next job.

    Args:
        niceness: how far the process gives way to others where processors are short, 0 to 19.
        give_way: called before and while a job or a long message is packed or unpacked, which keeps other
            threads waiting.
    """

    def __init__(
        self, name: str = "worker", *, niceness: int = 0, give_way: Callable[[], None] = _at_once
    ) -> None:
        self.name = name
        self.niceness = niceness
        self.give_way = give_way
        self._process: subprocess.Popen[bytes] | None = None
        self._connection: Connection | None = None
        self._lock = threading.Lock()
        self._queue: collections.deque[tuple[Job, Listener]] = collections.deque()
        self._wake = threading.Condition(self._lock)
        self._beginning = threading.Lock()  # a process is either known to us or not begun
        self._current: Job | None = None
        self._cancel_at: float | None = None
        self._stopped_at: float | None = None
        self._words = LastWords.new()
        self._closed = False
        self._by_itself = False
        self._step, self._step_at = "", 0.0
        self._thread = threading.Thread(target=self._serve, name=f"gondrel-{name}", daemon=True)
        self._thread.start()

    @property
    def pid(self) -> int | None:
        """Process id of the worker, None when it is not running."""
        process = self._process
        return process.pid if process is not None and process.poll() is None else None

    @property
    def is_busy(self) -> bool:
        """Whether a job is running or waiting."""
        with self._lock:
            return self._current is not None or bool(self._queue)

    def warm_up(self) -> None:
        """Start the process now, so that the first job need not wait for it."""
        with self._lock:
            self._wake.notify()

    def submit(self, job: Job, listener: Listener) -> None:
        """Queue a job; its last message is Done, Failed or Stopped."""
        with self._lock:
            self._queue.append((job, listener))
            self._wake.notify()

    def cancel(self, job: Job | None = None) -> None:
        """Ask a job to end, or all; one that runs is ended by force after a grace time."""
        with self._lock:
            dropped = [entry for entry in self._queue if job is None or entry[0] is job]
            self._queue = collections.deque(e for e in self._queue if e not in dropped)
            connection = self._connection
            runs = self._current is not None and job in (None, self._current)
            if runs and self._cancel_at is None:
                self._cancel_at = time.monotonic()
                if connection is not None:
                    _send(connection, "cancel")
        for _, listener in dropped:
            listener(Stopped())

    def close(self) -> None:
        """End the process and the thread."""
        with self._lock:
            self._closed = True
            self._queue.clear()
            self._wake.notify()
        with self._beginning:
            self._end_process()

    def _serve(self) -> None:
        while True:
            with self._lock:
                if self._closed:
                    return
                if not self._queue and self._process is not None:
                    self._wake.wait()
                if self._closed:
                    return
                job, listener = self._queue.popleft() if self._queue else (None, None)
                self._current, self._cancel_at = job, None
            if job is None or listener is None:
                if self._process is None:
                    self._start()
                continue
            last = self._run(job, listener)
            while (again := self._without_deadly(job, last)) is not None:
                job = again
                last = self._run(job, listener)
            with self._lock:
                self._current, self._cancel_at = None, None
            listener(last)

    def _without_deadly(self, job: Job, last: Done | Failed | Stopped) -> Job | None:
        """The job without the step that just ended the process by the kernel's own fault; None where
        nothing is to be tried again."""
        died = isinstance(last, Failed) and isinstance(last.error, KernelCrashed) and self._by_itself
        said = self._words.text
        if not died or not said or said in job.deadly or len(job.deadly) >= _MOST_DEATHS:
            return None
        return replace(job, deadly=job.deadly | {said})

    def _start(self) -> None:
        with self._beginning:
            if self._closed:
                return
            process, connection = self._begin()
        deadline = time.monotonic() + _START_LIMIT
        while time.monotonic() < deadline:
            try:
                if connection.poll(_WATCH) and isinstance(connection.recv(), Ready):
                    return
            except (EOFError, OSError):
                return
            if process.poll() is not None or self._closed:
                return

    def _begin(self) -> tuple[subprocess.Popen[bytes], Connection]:
        ours, theirs = socket.socketpair()
        handles = [theirs.fileno(), self._words.handle]
        given = (handles[0], self.niceness, os.getpid(), handles[1])
        process = subprocess.Popen(
            [sys.executable, "-m", "gondrel.jobs.child", *map(str, given)],
            pass_fds=handles,
            stdin=subprocess.DEVNULL,
            stderr=None if os.environ.get("GONDREL_WORKER_LOG") else subprocess.DEVNULL,
        )
        theirs.close()
        connection = Connection(ours.detach())
        self._process, self._connection = process, connection
        return process, connection

    def _run(self, job: Job, listener: Listener) -> Done | Failed | Stopped:
        if self.pid is None:
            self._start()
        connection = self._connection
        if connection is None:  # closed meanwhile
            return Stopped()
        packed = pack(job, self.give_way)
        if self._cancel_at is not None:
            return Stopped()
        try:
            connection.send_bytes(packed)
        except (OSError, ValueError):
            return self._died(job)
        began = time.monotonic()
        self._step, self._step_at = "", began
        look = began + _WATCH
        while True:
            try:
                if connection.poll(_WATCH):
                    data = connection.recv_bytes()
                    message = unpack(data, self.give_way if len(data) > _LONG else _at_once)
                    if isinstance(message, Done | Failed | Stopped):
                        return message
                    listener(message)
            except (EOFError, OSError):
                return self._died(job)
            if time.monotonic() < look:
                continue
            look = time.monotonic() + _WATCH
            ended = self._overdue(job, began)
            if ended is not None:
                self._end_process()
                return ended

    def _overdue(self, job: Job, began: float) -> Failed | Stopped | None:
        """How a job must end now for a cancel that is not heeded or a limit that is passed."""
        now = time.monotonic()
        if self._is_stopped(now):
            text = f"the worker process was stopped from outside while {self._doing(job)}, and was ended"
            return Failed(LimitExceeded(text, hint="nothing that was open is lost; try again"))
        if self._cancel_at is not None and now - self._cancel_at > CANCEL_GRACE:
            return Stopped()
        said = self._words.text
        if said != self._step:
            self._step, self._step_at = said, now
        elif self._is_stuck(job, now):
            self._by_itself = True
            text = f"{self._doing(job)} did not end within {now - self._step_at:.0f} s and was ended"
            return Failed(KernelCrashed(text, hint="nothing that was open is lost"))
        if job.seconds and now - began > job.seconds:
            text = f"{self._doing(job)} took longer than the {job.seconds:g} s allowed and was ended"
            return Failed(LimitExceeded(text, hint="nothing that was open is lost"))
        if job.megabytes and resident_megabytes(self.pid) > job.megabytes:
            text = f"{self._doing(job)} needed more than the {job.megabytes} MB allowed and was ended"
            return Failed(LimitExceeded(text, hint="nothing that was open is lost"))
        return None

    def _is_stuck(self, job: Job, now: float) -> bool:
        """Whether one step that can be left out takes a share of the time of the job that none should."""
        can_go = self._step.startswith(_CAN_GO) and self._step not in job.deadly
        return can_go and job.seconds > 0 and now - self._step_at > job.seconds * _STEP_SHARE

    def _doing(self, job: Job) -> str:
        """What a job is doing, with the step it said last."""
        said = self._words.text
        return f"{job.doing} ({said[:1].lower()}{said[1:]})" if said else job.doing

    def _is_stopped(self, now: float) -> bool:
        """Whether the process has stood still on a signal for longer than is let pass.

        Source: proc(5), the state in /proc/PID/stat: T stopped, t by a tracer.
        """
        try:
            with open(f"/proc/{self.pid}/stat", encoding="utf-8", errors="replace") as stream:
                state = stream.read().rpartition(")")[2].split()[0]
        except (OSError, IndexError):
            state = ""
        if state not in ("T", "t"):
            self._stopped_at = None
            return False
        self._stopped_at = self._stopped_at if self._stopped_at is not None else now
        return now - self._stopped_at > STOPPED_GRACE

    def _died(self, job: Job) -> Failed | Stopped:
        process = self._process
        code = process.wait() if process is not None else 0
        self._end_process()
        if self._cancel_at is not None:
            return Stopped()
        how = f"signal {-code}" if code < 0 else f"exit code {code}"
        text = f"the worker process died ({how}) while {self._doing(job)}"
        self._by_itself = -code in _OWN_FAULTS
        again = "it would end the same way again" if self._by_itself else "try again"
        return Failed(KernelCrashed(text, hint=f"nothing that was open is lost; {again}"))

    def _end_process(self) -> None:
        process, self._process = self._process, None
        connection, self._connection = self._connection, None
        if process is not None and process.poll() is None:
            process.kill()
            process.wait()
        if connection is not None:
            connection.close()


def _send(connection: Connection, message: Any) -> bool:
    try:
        connection.send(message)
    except (OSError, ValueError):
        return False
    return True


def run_blocking(worker: Worker, job: Job, listener: Listener) -> Any:
    """Run a job and wait for its result, as the command line does.

    Raises:
        GondrelError: what the job failed with. Cancelled: when it was cancelled.
    """
    finished = threading.Event()
    last: list[Done | Failed | Stopped] = []

    def listen(message: Any) -> None:
        if isinstance(message, Done | Failed | Stopped):
            last.append(message)
            finished.set()
        else:
            listener(message)

    worker.submit(job, listen)
    try:
        while not finished.wait(0.2):
            pass
    except BaseException:  # whatever ends the wait ends the job
        worker.cancel()
        finished.wait(CANCEL_GRACE + 1.0)
        raise
    match last[0]:
        case Done(value):
            return value
        case Failed(error):
            raise error
        case _:
            raise Cancelled
