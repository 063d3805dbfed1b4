"""Receive, check, send and prove over a folder for as long as it is told, by one worker that stays.

Prints a line for every round: memory of the worker, its open files, working folders that lie about, how
often the worker was started anew, and jobs that failed. At the end the memory against its value after the
first ten rounds.

Run: .venv/bin/python bench/soak.py FOLDER [MINUTES].
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from pathlib import Path

from gondrel.core.errors import GondrelError
from gondrel.core.formats.registry import by_suffix
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.findings import CheckLimits
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work.files import private_folder
from gondrel.jobs.messages import Job
from gondrel.jobs.worker import Worker, run_blocking

_COMMANDS = "gondrel.core.service.commands"
_KINDS = ("step-ap242", "step-ap214", "xt-text", "iges-solid", "iges-surface")
_ENDINGS = {"step": "stp", "xt": "x_t", "iges": "igs"}
_FIRST = 10


def resident(pid: int) -> float:
    """Megabytes that a process holds."""
    for line in Path(f"/proc/{pid}/status").read_text().splitlines():
        if line.startswith("VmRSS"):
            return int(line.split()[1]) / 1024
    return 0.0


def lying_about() -> int:
    """Working folders in the system's temporary folder."""
    return sum(1 for path in Path(tempfile.gettempdir()).iterdir() if path.name.startswith(".gondrel-"))


def once(worker: Worker, path: Path, number: int) -> bool:
    """Check a file, send it in one form and compare the two; whether all of it went through."""
    kind = _KINDS[number % len(_KINDS)]
    with private_folder() as folder:
        store, out = str(folder / "store"), str(folder / f"out.{_ENDINGS[kind.split('-')[0]]}")
        options = ReceiveOptions()
        jobs = (
            ("check_command", (str(path), options, CheckLimits(), store)),
            ("send_command", (str(path), out, kind, options, SendSettings(), False, "", (), store)),
            ("prove_command", (str(path), out, "", store)),
        )
        for function, args in jobs:
            try:
                run_blocking(worker, Job(f"{_COMMANDS}:{function}", args, doing=function), lambda _: None)
            except GondrelError as error:
                print(f"  {path.name}, {function}, {kind}: {error}")
                return False
    return True


def main(folder: str, minutes: float) -> None:
    """Run until the time is over."""
    files = sorted(p for p in Path(folder).iterdir() if by_suffix(p.name) is not None)
    if not files:
        sys.exit(f"{folder} has no file that can be received")
    worker, pids, memory, failed = Worker("soak"), set[int](), list[float](), 0
    before, end, number = lying_about(), time.monotonic() + 60 * minutes, 0
    while time.monotonic() < end:
        for path in files:
            failed += not once(worker, path, number)
            if worker.pid is not None:
                pids.add(worker.pid)
        number += 1
        pid = worker.pid
        if pid is not None:
            memory.append(resident(pid))
            open_files = len(list(Path(f"/proc/{pid}/fd").iterdir()))
            print(
                f"round {number}: {memory[-1]:.0f} MB, {open_files} open files, "
                f"{lying_about() - before} folders left, {len(pids) - 1} restarts, {failed} failed",
                flush=True,
            )
    worker.close()
    print(f"{number} rounds of {len(files)} files in {minutes:g} minutes, {failed} failed, "
          f"{len(pids) - 1} restarts, {lying_about() - before} folders left")  # fmt: skip
    if len(memory) > _FIRST:
        first, last = memory[_FIRST - 1], statistics.median(memory[-5:])
        change = f"{last / first - 1:+.1%}"
        print(f"memory after {_FIRST} rounds {first:.0f} MB, at the end {last:.0f} MB: {change}")


if __name__ == "__main__":
    main(sys.argv[1], float(sys.argv[2]) if len(sys.argv) > 2 else 60.0)
