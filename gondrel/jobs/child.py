"""The worker process: loads the kernel once, then runs one job after another."""

from __future__ import annotations

import faulthandler
import gc
import logging
import os
import signal
import sys
import time
from importlib import import_module
from multiprocessing.connection import Connection
from typing import IO, Any

from gondrel.core.errors import GondrelError
from gondrel.core.work import Cancelled, Progress
from gondrel.core.work.log import log_file, start_log
from gondrel.core.work.parent import end_with_parent
from gondrel.jobs.messages import Done, Failed, Job, Partial, Progressed, Ready, Stopped
from gondrel.jobs.words import LastWords

__all__ = ["collect_seldom", "main"]

_LOG = logging.getLogger("gondrel.jobs")
_LEAST_INTERVAL = 0.05


class _Reporter:
    """Sends progress at most twenty times a second and learns of a cancel; its last words stay, should the
    process die."""

    def __init__(self, connection: Connection, words: LastWords) -> None:
        self.connection = connection
        self.words = words
        self.last = 0.0

    def report(self, share: float, text: str) -> None:
        self.words.say(text)
        if self.connection.poll():
            self.connection.recv()
            raise Cancelled
        now = time.monotonic()
        if now - self.last >= _LEAST_INTERVAL:
            self.last = now
            self.connection.send(Progressed(share, text))

    def emit(self, value: Any) -> None:
        self.connection.send(Partial(value))


def _run(job: Job, connection: Connection, words: LastWords) -> Done | Failed | Stopped:
    reporter = _Reporter(connection, words)
    words.say("")
    module, _, name = job.function.partition(":")
    try:
        function = getattr(import_module(module), name)
        progress = Progress(reporter.report, reporter.emit, deadly=job.deadly)
        return Done(function(*job.args, **job.kwargs, progress=progress))
    except Cancelled:
        return Stopped()
    except GondrelError as error:
        return Failed(error)
    except MemoryError:
        return Failed(GondrelError(f"memory ran out while {job.doing}"))
    except Exception as error:
        _LOG.exception("internal error while %s", job.doing)
        reason = f"{type(error).__name__}: {error}"
        return Failed(GondrelError(f"an internal error stopped {job.doing}: {reason}"))


def _fault_file() -> IO[str]:
    """Where the stack goes when the kernel takes the process down: the log, else standard error."""
    try:
        return log_file().open("a", encoding="utf-8")
    except OSError:
        return sys.stderr


def collect_seldom() -> None:
    """Look for cycles of objects seldom, and never through what is loaded by now.

    The kernel's records come by the hundred thousand; looking through them again and again took a third of
    the time of gathering a mesh.
    """
    gc.freeze()
    gc.set_threshold(200_000, 50, 100)


def main() -> None:
    """Serve jobs. Arguments: the connection's descriptor, niceness, the parent's process id, and the
    descriptor of the memory for last words."""
    if not end_with_parent(int(sys.argv[3])):
        return
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the parent says what is to end
    start_log(verbose=bool(os.environ.get("GONDREL_WORKER_LOG")), is_worker=True)
    faulthandler.enable(_fault_file())
    os.nice(int(sys.argv[2]))
    words = LastWords(int(sys.argv[4]))
    connection = Connection(int(sys.argv[1]))
    # The kernel prints on standard output; that must not reach a command's own output.
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
    import_module("gondrel.core.formats.step.read")
    collect_seldom()
    connection.send(Ready())
    while True:
        try:
            job = connection.recv()
        except (EOFError, OSError):
            return
        if not isinstance(job, Job):
            continue  # a cancel that came too late
        connection.send(_run(job, connection, words))
        gc.collect()  # what a job leaves behind would stay for many more


if __name__ == "__main__":
    main()
