"""Running a command in a worker: the process, the bar of work done, and what ends it early."""

from __future__ import annotations

import signal
import sys
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from types import FrameType
from typing import TYPE_CHECKING, Any

from gondrel.core.work import Cancelled
from gondrel.core.work.files import private_folder
from gondrel.jobs.limits import limits_for
from gondrel.jobs.messages import Job, Progressed
from gondrel.jobs.worker import Worker, run_blocking

if TYPE_CHECKING:
    from rich.progress import Progress as Bar

__all__ = ["EndedBy", "Limits", "heed_signals", "prepare_worker", "put_worker_away", "run_command"]

_COMMANDS = "gondrel.core.service.commands"
_workers: list[Worker] = []

Limits = tuple[int, int]
"""Seconds and megabytes a command may take, 0 for what the size of its files gives."""


class EndedBy(BaseException):
    """A signal ends the command. It is no Exception, so that no library on the way takes it for its own."""

    def __init__(self, number: int) -> None:
        super().__init__(signal.Signals(number).name)
        self.number = number


def heed_signals() -> None:
    """Let SIGTERM, and SIGINT where whoever started us did not have it ignored, raise EndedBy."""
    signal.signal(signal.SIGTERM, _interrupt)
    if signal.getsignal(signal.SIGINT) is not signal.SIG_IGN:
        signal.signal(signal.SIGINT, _interrupt)


def prepare_worker() -> None:
    """Start the process that does the work, so that it is ready when the call has been looked at."""
    heed_signals()
    if not _workers:
        with _held_back():
            _workers.append(Worker("command"))


def put_worker_away() -> None:
    """End the process that does the work, whatever else is asked meanwhile."""
    if not _workers:
        return
    before = [signal.signal(n, signal.SIG_IGN) for n in (signal.SIGINT, signal.SIGTERM)]
    while _workers:
        _workers.pop().close()
    for number, handler in zip((signal.SIGINT, signal.SIGTERM), before, strict=True):
        signal.signal(number, handler)


def run_command(
    name: str, args: tuple[Any, ...], doing: str, files: Iterable[str], limits: Limits
) -> dict[str, Any]:
    """The object that a command makes.

    Args:
        name: of a function of the commands' module, or MODULE:FUNCTION; doing: what is done to what, for
            messages.
        files: what it is about, by whose sizes it is limited where limits are 0.

    Raises:
        GondrelError: what the command failed with. EndedBy: when a signal ended it.
    """
    prepare_worker()
    from gondrel.core.service.memory import memory_doubts  # while the worker loads the kernel

    files = list(files)
    for doubt in memory_doubts(files):
        print(f"gondrel: {doubt}", file=sys.stderr)
    seconds, megabytes = limits_for(files)
    try:
        with private_folder() as store, _Shown(doing) as shown:
            job = Job(
                name if ":" in name else f"{_COMMANDS}:{name}", (*args, str(store)), doing=doing,
                seconds=limits[0] or seconds, megabytes=limits[1] or megabytes,
            )  # fmt: skip
            result: dict[str, Any] = run_blocking(_workers[0], job, shown.take)
            return result
    except Cancelled:
        raise EndedBy(signal.SIGINT) from None


_holding: list[list[int]] = []


@contextmanager
def _held_back() -> Iterator[None]:
    """Signals that come meanwhile end the command afterwards: a process half begun could not be ended."""
    _holding.append([])
    try:
        yield
    finally:
        came = _holding.pop()
    if came:
        raise EndedBy(came[0])


def _interrupt(number: int, frame: FrameType | None) -> None:
    """A request to end is a cancel: everything is put away first."""
    if _holding:
        _holding[-1].append(number)
        return
    raise EndedBy(number)


class _Shown:
    """A bar of work done on a terminal, and nothing elsewhere."""

    def __init__(self, doing: str) -> None:
        self.doing = doing
        self._bar: Bar | None = None
        self._task: Any = None

    def __enter__(self) -> _Shown:
        if sys.stderr.isatty():
            from rich.console import Console
            from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

            self._bar = Progress(
                BarColumn(24), TextColumn("{task.percentage:3.0f}%"), TimeElapsedColumn(),
                TextColumn("{task.description}"), console=Console(stderr=True), transient=True,
            )  # fmt: skip
            self._task = self._bar.add_task(self.doing, total=1.0)
            self._bar.start()
        return self

    def __exit__(self, *error: object) -> None:
        if self._bar is not None:
            self._bar.stop()

    def take(self, message: Any) -> None:
        """Show how far the work is."""
        if self._bar is not None and isinstance(message, Progressed):
            self._bar.update(self._task, completed=message.share, description=message.text)
