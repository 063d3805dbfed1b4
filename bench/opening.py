"""Opening to picture against the bare kernel's default read and mesh of the same file, in one run.

Run: .venv/bin/python bench/opening.py [part|parts|demo|FILE ...]. Made are a part of some 9 MB, an assembly
of 200 different parts of some 30 MB, and the demo. Our side runs as the application does, two warm
workers: reading hands out bodies that the other worker tessellates meanwhile. Prints each of five rounds
and the median ratio, also against one worker that does everything in turn.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from parts import hub, make_heavy_part, shifted

from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all
from gondrel.core.service.write import write_model
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


def compare(path: str, reader: Worker, mesher: Worker) -> None:
    """Open a file five times each way and print the ratios."""
    print(f"{Path(path).name}: {Path(path).stat().st_size / 1e6:.1f} MB")
    ours(path, reader, mesher)
    ratios, gains = [], []
    for number in range(1, 6):
        kernel, two, one = bare(path), ours(path, reader, mesher), ours(path, reader, reader)
        ratios.append(two / kernel)
        gains.append(two / one)
        print(
            f"round {number}: kernel {kernel:.2f} s, two workers {two:.2f} s, one worker {one:.2f} s, "
            f"to the kernel {ratios[-1]:.2f}, two to one {gains[-1]:.2f}"
        )
    print(f"median to the kernel {statistics.median(ratios):.2f}")
    print(f"median of two workers to one {statistics.median(gains):.2f}")


def make_parts(path: str, count: int = 200) -> None:
    """Write an assembly of so many different parts, each in one place, as STEP AP214."""
    with tempfile.TemporaryDirectory() as folder:
        store = BlobStore(Path(folder))
        products, uses = [], []
        for number in range(count):
            name = f"Hub {number + 1}"
            body = Body(
                f"b{number}",
                BodyKind.SOLID,
                name,
                store.put(shape_to_blob(hub(60.0 + number / 4, 1 + (number % 4 == 0)))),
            )
            products.append(Product(f"p{number}", f"HB-{number + 1:03}", name, bodies=(body,)))
            place = shifted(250.0 * (number % 20), 250.0 * (number // 20))
            uses.append(Occurrence(f"u{number}", f"p{number}", name, place))
        model = Model((Product("top", "TR-1", "Tray", occurrences=tuple(uses)), *products), ("top",))
        facts = measure_all(model.blobs(), folder)
        data = write_model(model, "step-ap214", SendSettings(), store, facts, name="tray.stp")
    Path(path).write_bytes(data)


def made(what: str, folder: str) -> str:
    """The file of one word."""
    path = f"{folder}/{what}.stp"
    if what == "part":
        make_heavy_part(path)
    elif what == "parts":
        make_parts(path)
    elif what == "demo":
        return make_demo(folder)
    else:
        return what
    return path


def main() -> None:
    """Compare and print."""
    reader, mesher = Worker("reader", niceness=READER_NICENESS), Worker("mesher", niceness=MESHER_NICENESS)
    with tempfile.TemporaryDirectory() as folder:
        for what in sys.argv[1:] or ["part", "parts", "demo"]:
            compare(made(what, folder), reader, mesher)
    for worker in (reader, mesher):
        worker.close()


if __name__ == "__main__":
    main()
