"""A large assembly: 20,000 placed parts of 200 shapes in six levels, some 300 MB of STEP.

How soon its structure can be searched and boxes stand for its shapes, against the bare kernel's parse of
the file in the same run; and how much memory that takes, with the first eight shapes loaded, against the
bare kernel's reading of all of it.

Run: .venv/bin/python bench/large.py [SHARE]. A share of 0.1 makes a tenth of the shapes.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import parts
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product, Rgba
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all
from gondrel.core.service.write import write_model
from gondrel.jobs.messages import Done, Failed, Job, Partial
from gondrel.jobs.worker import Worker

SHAPES, PLACED, DISCS, ROUNDS = 200, 20_000, 9, 3
_LEVELS = (("Tray", 100, 420.0), ("Rack", 10, 4300.0), ("Bay", 5, 4400.0), ("Hall", 2, 22000.0))


def _hub(number: int) -> TopoDS_Shape:
    return parts.hub(90.0 + 0.5 * number, DISCS)


def large_assembly(store: BlobStore, shapes: int, shape_of: Callable[[int], TopoDS_Shape] = _hub) -> Model:
    """Parts in trays of a hundred, trays in racks of ten, racks in bays of five, bays in halls of two."""
    products = []
    for number in range(shapes):
        key, name = store.put(shape_to_blob(shape_of(number))), f"Hub {number + 1}"
        body = Body(f"b{number}", BodyKind.SOLID, name, key, Rgba(0.3 + 0.5 * number / shapes, 0.5, 0.7))
        products.append(Product(f"p{number}", f"HB-{number + 1:03}", name, bodies=(body,)))
    level, count = [f"p{number}" for number in range(shapes)], PLACED
    groups: list[Product] = []
    for name, size, step in _LEVELS:
        count = max(count // size, 1)
        made = []
        for group in range(count):
            inner = tuple(
                _use(f"{name}{group}-{i}", level[(group * size + i) % len(level)], i, step)
                for i in range(size)
            )
            number, title = f"{name[:2].upper()}-{group + 1:04}", f"{name} {group + 1}"
            made.append(Product(f"{name}{group}", number, title, occurrences=inner))
        groups = [*made, *groups]
        level = [p.id for p in made]
    places = tuple(
        Occurrence(f"w{i}", key, f"Hall {i + 1}", parts.shifted(0, 45000.0 * i))
        for i, key in enumerate(level)
    )
    return Model((Product("works", "WK-1", "Works", occurrences=places), *groups, *products), ("works",))


def _use(key: str, product: str, place: int, step: float) -> Occurrence:
    placement = parts.shifted(step * (place % 10), step * (place // 10))
    return Occurrence(key, product, f"Place {place + 1}", placement)


def make_large(path: str, shapes: int) -> None:
    """Write it as STEP AP214."""
    with tempfile.TemporaryDirectory() as folder:
        store = BlobStore(Path(folder))
        model = large_assembly(store, shapes)
        facts = measure_all(model.blobs(), folder)
        data = write_model(model, "step-ap214", SendSettings(), store, facts, name="works.stp")
    Path(path).write_bytes(data)


BARE = """
import sys, time
from OCP.STEPControl import STEPControl_Reader
from gondrel.core.kernel.base.calls import quiet
quiet()
reader = STEPControl_Reader()
start = time.perf_counter()
reader.ReadFile(sys.argv[1])
print("PARSE", time.perf_counter() - start)
"""

BARE_WHOLE = """
import resource, sys
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
from gondrel.core.kernel.base.calls import quiet
quiet()
reader = STEPCAFControl_Reader()
reader.ReadFile(sys.argv[1])
reader.Transfer(TDocStd_Document(TCollection_ExtendedString("BinXCAF")))
print("PEAK", resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
"""

IN_PARTS = """
import resource, sys, tempfile
from gondrel.core.formats.settings import ReceiveSettings
from gondrel.core.model.later import waiting
from gondrel.core.service.receive import load_shapes, receive
folder = tempfile.mkdtemp()
model = receive(sys.argv[1], folder, ReceiveSettings(shapes="asked"))
waits = [product.unread for product in waiting(model)]
print("STRUCTURE", resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
load_shapes(model, waits[0].path, tuple(each.record for each in waits[:8]), folder)
print("PEAK", resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
"""


def bare(path: str) -> float:
    """Seconds of the bare kernel's parse."""
    done = subprocess.run([sys.executable, "-c", BARE, path], check=True, capture_output=True, text=True)
    return next(float(line.split()[1]) for line in done.stdout.splitlines() if line.startswith("PARSE"))


def peaks(script: str, path: str) -> dict[str, float]:
    """Most memory that a script held, MB, by what it prints."""
    done = subprocess.run([sys.executable, "-c", script, path], check=True, capture_output=True, text=True)
    lines = [line.split() for line in done.stdout.splitlines()]
    return {line[0]: int(line[1]) / 1e3 for line in lines if len(line) == 2 and line[1].isdigit()}


def previewed(path: str) -> dict[str, float]:
    """Seconds until a warm worker has the structure, and until it has boxes."""
    told: dict[str, float] = {}
    ended = threading.Event()
    worker = Worker("bench")
    worker.warm_up()
    time.sleep(4.0)
    with tempfile.TemporaryDirectory() as folder:
        start = time.perf_counter()

        def listen(message: Any) -> None:
            if isinstance(message, Partial):
                told[message.value[0]] = time.perf_counter() - start
            elif isinstance(message, Done | Failed):
                ended.set()

        worker.submit(Job("gondrel.core.service.preview:structure_first", (path, folder)), listen)
        ended.wait(1200)
        worker.close()
    return told


def main(shapes: int) -> None:
    """Make the file, then measure in turns."""
    with tempfile.TemporaryDirectory() as folder:
        path = str(Path(folder) / "works.stp")
        subprocess.run([sys.executable, __file__, "make", path, str(shapes)], check=True)
        print(f"{Path(path).stat().st_size / 1e6:.0f} MB, {PLACED:,} parts in place, {shapes} shapes")
        rounds = [(bare(path), previewed(path)) for _ in range(ROUNDS)]
        whole, parts_of_it = peaks(BARE_WHOLE, path), peaks(IN_PARTS, path)
    for parse, told in rounds:
        print(f"parse {parse:.1f} s, structure {told['structure']:.1f} s, boxes {told['boxes']:.1f} s")
    for key in ("structure", "boxes"):
        ratio = statistics.median(told[key] / parse for parse, told in rounds)
        print(f"{key}: {ratio:.2f} of the bare parse")
    print(f"peak of the bare kernel, read whole: {whole['PEAK']:.0f} MB")
    for key, title in (("STRUCTURE", "structure"), ("PEAK", "and eight shapes")):
        print(f"{title}: {parts_of_it[key]:.0f} MB, {parts_of_it[key] / whole['PEAK']:.2f} of it")


if __name__ == "__main__":
    if sys.argv[1:2] == ["make"]:
        make_large(sys.argv[2], int(sys.argv[3]))
    else:
        main(max(round(SHAPES * float(sys.argv[1])), 1) if len(sys.argv) > 1 else SHAPES)
