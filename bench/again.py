"""A source that was read before against its first opening, to a full picture: meshes and measures there.

Run: .venv/bin/python bench/again.py [FILE]. Without a file the demo is taken, and a part of some 9 MB. Both
openings are by a warm worker; the first reads, measures and tessellates in turn.
"""

from __future__ import annotations

import os
import statistics
import sys
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

from parts import make_heavy_part

from gondrel.core.service.settings import receive_options_from
from gondrel.demo.make import make_demo
from gondrel.jobs.messages import Done, Failed, Job
from gondrel.jobs.worker import Worker

ROUNDS = 3


def job(worker: Worker, function: str, *args: Any) -> Any:
    """What a service function gives in the worker."""
    ended: list[Any] = []
    there = threading.Event()

    def listen(message: Any) -> None:
        if isinstance(message, Done | Failed):
            ended.append(message)
            there.set()

    worker.submit(Job(f"gondrel.core.service.{function}", args), listen)
    there.wait(1200)
    if isinstance(ended[0], Failed):
        raise ended[0].error
    return ended[0].value


def opened(worker: Worker, path: str, folder: str) -> tuple[float, Any]:
    """Seconds to a full picture, and the model."""
    start = time.perf_counter()
    model = job(worker, "cache:receive_again", path, folder, receive_options_from({}))
    job(worker, "receive:mesh_bodies", model.blobs(), folder)
    job(worker, "receive:measure_all", model.blobs(), folder)
    return time.perf_counter() - start, model


def rounds(worker: Worker, path: str) -> float:
    """The ratio of a second opening to the first."""
    with tempfile.TemporaryDirectory() as folder:
        first, model = opened(worker, path, folder)
        job(worker, "cache:keep_read", model, path, folder, receive_options_from({}))
    with tempfile.TemporaryDirectory() as folder:
        again, _ = opened(worker, path, folder)
    print(f"{Path(path).name}: first {first:.2f} s, again {again:.3f} s")
    return again / first


def main(paths: list[str]) -> None:
    """Each file several times, each time with an empty cache."""
    for path in paths:
        ratios = []
        for _ in range(ROUNDS):
            with tempfile.TemporaryDirectory() as cache:
                os.environ["XDG_CACHE_HOME"] = cache
                worker = Worker("bench")
                worker.warm_up()
                time.sleep(3.0)
                ratios.append(rounds(worker, path))
                worker.close()
        print(f"{Path(path).name}: {statistics.median(ratios):.3f} of the first opening")


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as made:
        given = sys.argv[1:]
        if not given:
            heavy = str(Path(made) / "heavy.stp")
            make_heavy_part(heavy)
            given = [make_demo(made), heavy]
        main(given)
