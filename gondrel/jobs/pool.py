"""Several worker processes that share a list of jobs."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable, Iterable
from typing import Any, TypeVar

from gondrel.jobs.messages import Done, Failed, Job, Stopped
from gondrel.jobs.worker import Worker

__all__ = ["run_all"]

T = TypeVar("T")

_LOOK = 0.3
"""Seconds after which it is looked whether all is to end."""


def run_all(
    tasks: Iterable[T], job_of: Callable[[T], Job], take: Callable[[T, Done | Failed | Stopped], None], *,
    workers: int, stopped: threading.Event | None = None,
) -> None:  # fmt: skip
    """Run a job for each task, as many at a time as there are workers; what fails does not stop the rest.

    Args:
        job_of: makes the job when its turn comes; take: called here with what came of each, in the order in
            which they end.
        stopped: ends it when set; what runs then is given up and not told.
    """
    waiting = iter(tasks)
    ended: queue.Queue[tuple[Worker, T, Any]] = queue.Queue()
    pool = [Worker(f"batch-{number}") for number in range(max(workers, 1))]
    running = 0

    def give(worker: Worker) -> bool:
        for task in waiting:

            def listen(message: Any, task: T = task) -> None:
                if isinstance(message, Done | Failed | Stopped):
                    ended.put((worker, task, message))

            worker.submit(job_of(task), listen)
            return True
        return False

    try:
        running = sum(give(worker) for worker in pool)
        while running and not (stopped is not None and stopped.is_set()):
            try:
                worker, task, message = ended.get(timeout=_LOOK)
            except queue.Empty:
                continue
            take(task, message)
            running -= 1
            running += give(worker)
    finally:
        for worker in pool:
            worker.close()
