"""Jobs of a batch on several machines, through the scheduler of a Dask cluster (the extra [cluster]).

Files are read and written where every machine sees them. A job of a machine that is lost is done again by
another.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from queue import Queue
from typing import Any, TypeVar

from gondrel.core.errors import GondrelError, UsageError
from gondrel.core.work.files import private_folder
from gondrel.jobs.messages import Done, Failed, Job, Stopped
from gondrel.jobs.worker import Worker

__all__ = ["run_on_cluster"]

T = TypeVar("T")

_TRIES = 3


def run_on_cluster(
    address: str, tasks: Iterable[T], job_of: Callable[[T], Job],
    take: Callable[[T, Done | Failed | Stopped], None],
) -> None:  # fmt: skip
    """Run a job for each task on a cluster.

    Args:
        address: of the scheduler, as tcp://host:8786; take: called here with what came of each.

    Raises:
        UsageError: when the extra is not installed or nobody answers at the address.
    """
    try:
        from distributed import Client, as_completed
    except ImportError:
        raise UsageError(
            "a cluster needs the extra [cluster]", hint="pip install gondrel[cluster]"
        ) from None
    try:
        client = Client(address, timeout=10)
    except (OSError, ValueError) as error:
        raise UsageError(f"no scheduler answers at {address}: {error}") from None
    with client:
        waiting = {
            client.submit(run_there, job_of(task), pure=False, retries=_TRIES): task for task in tasks
        }
        for future in as_completed(list(waiting)):
            task = waiting.pop(future)
            if future.status == "finished":
                take(task, future.result())
            else:
                text = f"the cluster gave it up: {future.exception()}"
                take(task, Failed(GondrelError(text)))
            future.release()


def run_there(job: Job) -> Done | Failed | Stopped:
    """Run a job in a process of its own on the machine where this is called; the last of its arguments, the
    folder for bodies, is one of that machine."""
    ended: Queue[Any] = Queue()

    def listen(message: Any) -> None:
        if isinstance(message, Done | Failed | Stopped):
            ended.put(message)

    with private_folder() as store:
        worker = Worker("cluster")
        try:
            worker.submit(replace(job, args=(*job.args[:-1], str(store))), listen)
            message: Done | Failed | Stopped = ended.get()
        finally:
            worker.close()
    return message
