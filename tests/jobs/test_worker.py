from __future__ import annotations

import os
import signal
import threading
import time
from collections.abc import Iterator

import pytest

from gondrel.core.errors import KernelCrashed, LimitExceeded
from gondrel.core.work import SILENT, Progress
from gondrel.jobs.messages import Done, Failed, Job, Progressed, Stopped
from gondrel.jobs.worker import Worker, run_blocking

pytestmark = pytest.mark.slow

HERE = "tests.jobs.test_worker"


def answer(value: int, *, progress: Progress = SILENT) -> int:
    progress.at(0.5, "thinking")
    return value


def hang(*, progress: Progress = SILENT) -> None:
    time.sleep(60)


def loop(*, progress: Progress = SILENT) -> None:
    for _ in progress.each(range(6000), "turning"):
        time.sleep(0.01)


def gorge(*, progress: Progress = SILENT) -> None:
    hoard = []
    while True:
        hoard.append(bytearray(50_000_000))
        hoard[-1][::4096] = b"x" * len(hoard[-1][::4096])
        time.sleep(0.05)


@pytest.fixture
def worker() -> Iterator[Worker]:
    made = Worker("test")
    yield made
    made.close()


def finish(worker: Worker, job: Job, act: object = None) -> tuple[object, float, list[object]]:
    seen: list[object] = []
    ended = threading.Event()

    def listen(message: object) -> None:
        seen.append(message)
        if isinstance(message, Done | Failed | Stopped):
            ended.set()

    assert run_blocking(worker, Job(f"{HERE}:answer", (1,)), lambda m: None) == 1
    worker.submit(job, listen)
    time.sleep(0.3)
    began = time.monotonic()
    if callable(act):
        act()
    assert ended.wait(30)
    return seen[-1], time.monotonic() - began, seen


def test_a_job_answers_and_tells_progress(worker: Worker) -> None:
    last, _, seen = finish(worker, Job(f"{HERE}:answer", (7,)))
    assert last == Done(7)
    assert any(isinstance(m, Progressed) and m.text == "thinking" for m in seen)


@pytest.mark.parametrize("function", ["loop", "hang"])
def test_cancel_ends_a_job_within_two_and_a_half_seconds(worker: Worker, function: str) -> None:
    last, seconds, _ = finish(worker, Job(f"{HERE}:{function}"), worker.cancel)
    assert isinstance(last, Stopped)
    assert seconds < 2.5
    assert run_blocking(worker, Job(f"{HERE}:answer", (2,)), lambda m: None) == 2


def test_a_killed_worker_says_what_it_was_doing_and_works_again(worker: Worker) -> None:
    def kill() -> None:
        assert worker.pid is not None
        os.kill(worker.pid, signal.SIGKILL)

    last, _, _ = finish(worker, Job(f"{HERE}:hang", doing="reading gear.stp"), kill)
    assert isinstance(last, Failed)
    assert isinstance(last.error, KernelCrashed)
    assert "signal 9" in str(last.error)
    assert "reading gear.stp" in str(last.error)
    assert run_blocking(worker, Job(f"{HERE}:answer", (3,)), lambda m: None) == 3


def test_limits_of_time_and_memory_end_a_job(worker: Worker) -> None:
    last, _, _ = finish(worker, Job(f"{HERE}:hang", seconds=0.5))
    assert isinstance(last, Failed)
    assert isinstance(last.error, LimitExceeded)
    last, _, _ = finish(worker, Job(f"{HERE}:gorge", megabytes=900))
    assert isinstance(last, Failed)
    assert "900 MB" in str(last.error)
