"""A heavy part inspected and sent with its proof, against the bare kernel: seconds and memory, in one run.

Run: .venv/bin/python bench/heavy.py [MB ...] [send]. For each size a part is made; printed are the seconds
of `inspect` against the bare kernel's reading and transfer, with "send" those of `send` and proof against
its reading, transfer and writing, and the peak memory of ours against that of the bare reading: of the
worker alone, and of the worker with the processes that help it, what they share counted once.
"""

from __future__ import annotations

import sys
import tempfile
import threading
from contextlib import suppress
from pathlib import Path

from parts import make_heavy_part
from structure import BARE, commanded, told

from gondrel.jobs.worker import Worker

_PULSE = 0.5


class Watched:
    """The memory of a process and of those it started, MB, at its highest."""

    def __init__(self, pid: int) -> None:
        self.pid, self.together = pid, 0.0
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._watch, daemon=True)
        self._thread.start()

    @property
    def alone(self) -> float:
        """The highest of the process itself. Source: proc(5), VmHWM."""
        lines = Path(f"/proc/{self.pid}/status").read_text().splitlines()
        return next(int(line.split()[1]) / 1024 for line in lines if line.startswith("VmHWM"))

    def _watch(self) -> None:
        while not self._over.wait(_PULSE):
            self.together = max(self.together, sum(map(_share, [self.pid, *_children(self.pid)])))

    def close(self) -> None:
        """Watch no longer."""
        self._over.set()
        self._thread.join()


def _children(pid: int) -> list[int]:
    with suppress(OSError):
        return [int(word) for word in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]
    return []


def _share(pid: int) -> float:
    """What a process holds, shared pages by halves. Source: proc(5), Pss of smaps_rollup."""
    with suppress(OSError, ProcessLookupError):
        for line in Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines():
            if line.startswith("Pss:"):
                return int(line.split()[1]) / 1024
    return 0.0


def ours(what: str, path: str, out: str, first: str) -> tuple[float, float, float]:
    """Seconds of a command in a warm worker, its peak alone, and with its helpers."""
    worker = Worker("bench")
    try:
        commanded(worker, what, first, out)
        assert worker.pid is not None
        watched = Watched(worker.pid)
        spent, alone = commanded(worker, what, path, out), watched.alone
        watched.close()
        return spent, alone, watched.together
    finally:
        worker.close()


def main(sizes: list[float], *, sends: bool) -> None:
    """Measure and print."""
    with tempfile.TemporaryDirectory() as folder:
        path, out, first = (f"{folder}/{name}.stp" for name in ("heavy", "out", "first"))
        make_heavy_part(first, 0.5)
        for size in sizes:
            make_heavy_part(path, size)
            print(f"{Path(path).stat().st_size / 1e6:.0f} MB")
            bare = told("-c", BARE, path, out)
            whats = ("inspect", "send") if sends else ("inspect",)
            for what in whats:
                base = bare["READ"] if what == "inspect" else bare["WRITTEN"]
                spent, alone, together = ours(what, path, out, first)
                peak = bare["PEAK"]
                print(f"  {what}: {spent:.1f} s, bare {base:.1f} s, {spent / base:.2f} times", flush=True)
                print(
                    f"    peak {alone:.0f} MB, with helpers {together:.0f} MB, bare {peak:.0f} MB: "
                    f"{alone / peak:.2f} and {together / peak:.2f} times",
                    flush=True,
                )


if __name__ == "__main__":
    words = sys.argv[1:]
    main([float(word) for word in words if word != "send"] or [9.0, 100.0], sends="send" in words)
