"""Opening to picture against the bare kernel's default read and mesh of the same file, in one run.

Run: .venv/bin/python bench/opening.py [FILE]. Without a file, a part of some 9 MB is made: a rod
turned with thousands of steps. Our side runs as the application does, two warm workers; reading hands out
bodies that the other worker tessellates meanwhile. Prints each round and the median ratio.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from gondrel.jobs.messages import Done, Failed, Job, Partial
from gondrel.jobs.worker import Worker
from gondrel.ui.tasks import READER_NICENESS

BARE = """
import sys, time
from OCP.STEPControl import STEPControl_Reader
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from gondrel.core.kernel.calls import quiet
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
MAKE = """
import sys
from gondrel.core.kernel.build import turned
from gondrel.core.kernel.step_out import write_body
profile = [(0, 0)] + [(20 + (i % 2) + 3 * (i % 7) / 7, 0.4 * (i // 2)) for i in range(9400)]
profile.append((0, profile[-1][1]))
open(sys.argv[1], "wb").write(write_body(turned(profile), "mm").data)
"""


def bare(path: str) -> float:
    """Seconds of the kernel alone, its import not counted."""
    command = [sys.executable, "-c", BARE, path]
    output = subprocess.run(command, capture_output=True, text=True, check=True).stdout
    return float(output.split("SECONDS")[1])


def ours(path: str, workers: tuple[Worker, Worker]) -> float:
    """Seconds from the order to open until every body has its mesh."""
    reader, mesher = workers
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


def main() -> None:
    """Compare and print."""
    workers = (Worker("reader", niceness=READER_NICENESS), Worker("mesher"))
    with tempfile.TemporaryDirectory() as folder:
        path = sys.argv[1] if len(sys.argv) > 1 else f"{folder}/rod.stp"
        if len(sys.argv) < 2:
            subprocess.run([sys.executable, "-c", MAKE, path], check=True, stdout=subprocess.DEVNULL)
        print(f"{Path(path).name}: {Path(path).stat().st_size / 1e6:.1f} MB")
        ours(path, workers)
        ratios = []
        for number in range(1, 4):
            kernel, gondrel = bare(path), ours(path, workers)
            ratios.append(gondrel / kernel)
            print(f"round {number}: kernel {kernel:.2f} s, Gondrel {gondrel:.2f} s, ratio {ratios[-1]:.2f}")
        print(f"median ratio {statistics.median(ratios):.2f} (wanted: at most 0.7 on one part, goal 0.6)")
    for worker in workers:
        worker.close()


if __name__ == "__main__":
    main()
