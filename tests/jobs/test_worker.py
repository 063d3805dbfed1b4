from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

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


def test_closed_while_its_process_begins_it_leaves_none(monkeypatch: pytest.MonkeyPatch) -> None:
    begun: list[subprocess.Popen[bytes]] = []
    popen = subprocess.Popen

    def slow(*args: Any, **kwargs: Any) -> subprocess.Popen[bytes]:
        begun.append(popen(*args, **kwargs))
        time.sleep(0.3)
        return begun[-1]

    monkeypatch.setattr("gondrel.jobs.worker.subprocess.Popen", slow)
    worker = Worker("hasty")
    while not begun:
        time.sleep(0.01)
    worker.close()
    assert begun[0].returncode == -signal.SIGKILL
    assert not Path(f"/proc/{begun[0].pid}").exists()


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


def crash(*, progress: Progress = SILENT) -> None:
    progress.at(0.2, "Making body 3 of 7")
    progress.at(0.2001, "Making body 4 of 7")
    os.kill(os.getpid(), signal.SIGSEGV)


def test_a_crash_is_told_with_the_last_words(worker: Worker) -> None:
    job = Job(f"{HERE}:crash", doing="reading a.stp")
    last, _, _ = finish(worker, job)
    assert isinstance(last, Failed) and isinstance(last.error, KernelCrashed)
    assert "reading a.stp (making body 4 of 7)" in last.error.message
    assert "same way again" in last.error.hint


def test_a_stopped_worker_is_noticed_and_ended(worker: Worker, monkeypatch) -> None:
    monkeypatch.setattr("gondrel.jobs.worker.STOPPED_GRACE", 0.5)

    def stop() -> None:
        assert worker.pid is not None
        os.kill(worker.pid, signal.SIGSTOP)

    last, seconds, _ = finish(worker, Job(f"{HERE}:hang", doing="reading a.stp"), stop)
    assert isinstance(last, Failed) and "stopped from outside" in last.error.message
    assert seconds < 10


@pytest.mark.parametrize("number", [signal.SIGKILL, signal.SIGTERM, signal.SIGINT])
def test_a_worker_ends_with_its_parent_whatever_it_does(number, tmp_path) -> None:
    """The parent is a process of its own, whose worker sleeps in one long call."""
    code = (
        "import signal, time\n"
        "signal.signal(signal.SIGINT, signal.default_int_handler)  # a shell's background job ignores it\n"
        "from gondrel.jobs.messages import Job\n"
        "from gondrel.jobs.worker import Worker\n"
        "worker = Worker('child')\n"
        f"worker.submit(Job('{HERE}:hang'), lambda m: None)\n"
        "while worker.pid is None: time.sleep(0.05)\n"
        "time.sleep(0.5); print(worker.pid, flush=True); time.sleep(60)\n"
    )
    parent = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
    assert parent.stdout is not None
    pid = int(parent.stdout.readline())
    assert os.path.exists(f"/proc/{pid}")
    parent.send_signal(number)
    parent.wait(10)
    deadline = time.monotonic() + 60
    while os.path.exists(f"/proc/{pid}") and time.monotonic() < deadline:
        time.sleep(0.05)
    assert not os.path.exists(f"/proc/{pid}")


def stumble(*, progress: Progress = SILENT) -> list[int]:
    """Die of the second and the fourth step, unless they are known to be deadly."""
    done = []
    for number in range(5):
        step = f"Making body {number}"
        progress.part(0.2, 0.9).at(number / 5, step)
        if progress.part(0.0, 0.5).is_deadly(step):
            continue
        if number in (1, 3):
            os.kill(os.getpid(), signal.SIGSEGV)
        done.append(number)
    return done


def test_steps_that_end_the_process_are_left_out_when_it_is_tried_again(worker: Worker) -> None:
    last, _, _ = finish(worker, Job(f"{HERE}:stumble"))
    assert last == Done([0, 2, 4])


def test_a_step_that_is_not_left_out_ends_the_job(worker: Worker) -> None:
    last, _, _ = finish(worker, Job(f"{HERE}:crash", doing="reading gear.stp"))
    assert isinstance(last, Failed) and isinstance(last.error, KernelCrashed)
    assert "making body 4 of 7" in str(last.error) and "same way again" in str(last.error)


def linger(*, progress: Progress = SILENT) -> list[int]:
    """Never end the second step, unless it is known to be deadly."""
    done = []
    for number in range(3):
        step = f"Making body {number}"
        progress.at(number / 3, step)
        if progress.is_deadly(step):
            continue
        if number == 1:
            time.sleep(60)
        done.append(number)
    return done


def test_a_step_that_does_not_end_is_left_out_and_the_rest_goes_on(worker: Worker) -> None:
    last, seconds, _ = finish(worker, Job(f"{HERE}:linger", seconds=6.0))
    assert last == Done([0, 2])
    assert seconds < 15


def test_a_step_that_can_not_be_left_out_meets_the_limit_of_the_job(worker: Worker) -> None:
    last, _, _ = finish(worker, Job(f"{HERE}:hang", seconds=1.5))
    assert isinstance(last, Failed) and isinstance(last.error, LimitExceeded)
