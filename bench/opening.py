"""Opening to picture against the bare kernel's default read and mesh of the same file, in one run.

Run: .venv/bin/python bench/opening.py [FILE]. Without a file, a part of some 9 MB is made, and the demo
assembly is opened too. Our side runs as the application does, two warm workers: reading hands out
bodies that the other worker tessellates meanwhile. Prints each round and the median ratio; for the
assembly also against one worker that does everything in turn.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from parts import make_heavy_part

from gondrel.demo.make import make_demo
from gondrel.jobs.messages import Done, Failed, Job, Partial
from gondrel.jobs.worker import Worker
from gondrel.ui.session.tasks import MESHER_NICENESS, READER_NICENESS

BARE = """
import sys, time
from OCP.STEPControl import STEPControl_Reader
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from gondrel.core.kernel.base.calls import quiet
from gondrel.core.kernel.derive import chord_for
quiet()
start = time.perf_counter()
reader = STEPControl_Reader()
reader.ReadFile(sys.argv[1])
reader.TransferRoots()
shape = reader.OneShape()
BRepMesh_IncrementalMesh(shape, chord_for(shape), False, 0.35, True)
print("SECONDS", time.perf_counter() - start)
"""


def bare(path: str) -> float:
    """Seconds of the kernel alone, its import not counted."""
    command = [sys.executable, "-c", BARE, path]
    output = subprocess.run(command, capture_output=True, text=True, check=True).stdout
    return float(output.split("SECONDS")[1])


def ours(path: str, reader: Worker, mesher: Worker) -> float:
    """Seconds from the order to open until every body has its mesh."""
    ended, waiting = threading.Event(), [1]
    lock = threading.Lock()
    errors = []

    def one_less() -> None:
        with lock:
            waiting[0] -= 1
            if not waiting[0]:
                ended.set()

    with tempfile.TemporaryDirectory() as store:

        def meshed(message: object) -> None:
            if isinstance(message, Failed):
                errors.append(message.error)
            if isinstance(message, Failed) or (isinstance(message, Partial) and message.value[0] == "mesh"):
                one_less()

        def read(message: object) -> None:
            if isinstance(message, Partial) and message.value[0] == "body":
                with lock:
                    waiting[0] += 1
                function = "gondrel.core.service.receive:mesh_bodies"
                mesher.submit(Job(function, ((message.value[1],), store)), meshed)
            if isinstance(message, Failed):
                errors.append(message.error)
            if isinstance(message, Done | Failed):
                one_less()

        start = time.perf_counter()
        reader.submit(Job("gondrel.core.service.receive:receive", (path, store)), read)
        ended.wait(600)
        seconds = time.perf_counter() - start
        while mesher.is_busy:  # measuring goes on behind the picture
            time.sleep(0.05)
    if errors:
        raise errors[0]
    return seconds


def compare(path: str, reader: Worker, mesher: Worker, wanted: str) -> None:
    """Open a file three times each way and print the ratios."""
    print(f"{Path(path).name}: {Path(path).stat().st_size / 1e6:.1f} MB")
    ours(path, reader, mesher)
    ratios, gains = [], []
    for number in range(1, 4):
        kernel, two, one = bare(path), ours(path, reader, mesher), ours(path, reader, reader)
        ratios.append(two / kernel)
        gains.append(two / one)
        print(
            f"round {number}: kernel {kernel:.2f} s, two workers {two:.2f} s, one worker {one:.2f} s, "
            f"to the kernel {ratios[-1]:.2f}, two to one {gains[-1]:.2f}"
        )
    print(f"median to the kernel {statistics.median(ratios):.2f} {wanted}")
    print(f"median of two workers to one {statistics.median(gains):.2f}")


def main() -> None:
    """Compare and print."""
    reader, mesher = Worker("reader", niceness=READER_NICENESS), Worker("mesher", niceness=MESHER_NICENESS)
    goal = "(wanted: at most 0.7 on one part, goal 0.6)"
    with tempfile.TemporaryDirectory() as folder:
        if len(sys.argv) > 1:
            compare(sys.argv[1], reader, mesher, goal)
        else:
            make_heavy_part(f"{folder}/stepped-hub.stp")
            compare(f"{folder}/stepped-hub.stp", reader, mesher, goal)
            compare(make_demo(folder), reader, mesher, "")
    for worker in (reader, mesher):
        worker.close()


if __name__ == "__main__":
    main()
