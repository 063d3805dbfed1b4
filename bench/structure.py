"""Inspecting, and sending with its proof, against the bare kernel's reading (and writing) in the same run.

Three made files: 20,000 placed parts of 200 bored plates in six levels; the same of 200 lobed discs, with
four times the faces; and 3,829 products with a face each.

Run: .venv/bin/python bench/structure.py [inspect|send] [ROUNDS] [plates|placed|small]. Prints each round
and the median ratio.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from large import PLACED, large_assembly
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.gp import gp_Pnt
from OCP.TopoDS import TopoDS_Shape
from parts import hub

from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product, Rgba
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.service.write import write_model
from gondrel.jobs.messages import Job
from gondrel.jobs.worker import Worker, run_blocking

SMALL = 3829

BARE = """
import resource, sys, time
from OCP.STEPCAFControl import STEPCAFControl_Reader, STEPCAFControl_Writer
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
from gondrel.core.kernel.base.calls import quiet
quiet()
document = TDocStd_Document(TCollection_ExtendedString("BinXCAF"))
start = time.perf_counter()
reader = STEPCAFControl_Reader()
reader.ReadFile(sys.argv[1])
reader.Transfer(document)
print("READ", time.perf_counter() - start)
print("PEAK", resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
writer = STEPCAFControl_Writer()
writer.Transfer(document)
writer.Write(sys.argv[2])
print("WRITTEN", time.perf_counter() - start)
"""


def small_products(store: BlobStore, count: int) -> Model:
    """One assembly of products with a small flat face each."""
    products, uses = [], []
    for number in range(count):
        polygon = BRepBuilderAPI_MakePolygon()
        for x, y in ((0, 0), (5 + number % 7, 0), (5 + number % 7, 4), (2, 6 + number % 11), (0, 4)):
            polygon.Add(gp_Pnt(float(x), float(y), 0.001 * number))
        polygon.Close()
        face = BRepBuilderAPI_MakeFace(polygon.Wire()).Face()
        key = store.put(shape_to_blob(face))
        body = Body(f"b{number}", BodyKind.SHEET, f"Tile {number}", key, Rgba(0.5, 0.5, 0.7))
        products.append(Product(f"p{number}", f"TL-{number:04}", f"Tile {number}", bodies=(body,)))
        uses.append(Occurrence(f"u{number}", f"p{number}", f"Tile {number}"))
    top = Product("top", "TL", "Tiles", occurrences=tuple(uses))
    return Model((top, *products), ("top",))


def plate(number: int) -> TopoDS_Shape:
    """A plate with sixteen bores, a little longer with each number."""
    length = 170.0 + 0.5 * number
    bores = [
        cylinder(4.0 + 0.01 * number, 20.0, at=(20.0 + length * place / 5, 20.0 + 20.0 * row, -2.0))
        for row in range(4)
        for place in range(4)
    ]
    return cut(block(length, 100.0, 12.0), *bores)


def make(path: str, kind: str) -> None:
    """Write one of them as STEP AP214."""
    with tempfile.TemporaryDirectory() as folder:
        store = BlobStore(Path(folder))
        if kind in ("plates", "placed"):
            made = plate if kind == "plates" else lambda number: hub(90.0 + 0.5 * number, 1)
            model = large_assembly(store, 200, made)
        else:
            model = small_products(store, {"small": SMALL, "one": 1}[kind])
        facts = measure_all(model.blobs(), folder)
        data = write_model(model, "step-ap214", SendSettings(), store, facts, name=f"{kind}.stp")
    Path(path).write_bytes(data)


def commanded(worker: Worker, what: str, path: str, out: str) -> float:
    """Seconds of a command in a worker, with an empty store."""
    Path(out).unlink(missing_ok=True)
    with tempfile.TemporaryDirectory() as store:
        options, settings = ReceiveOptions(), SendSettings()
        args: tuple[Any, ...] = (path, options, store)
        if what == "send":
            args = (path, out, "step-ap214", options, settings, False, "", (), store)
        job = Job(f"gondrel.core.service.commands:{what}_command", args, doing=what)
        start = time.perf_counter()
        run_blocking(worker, job, lambda _: None)
        return time.perf_counter() - start


def seconds_of(what: str, path: str, out: str, small: str) -> float:
    """Seconds of a command in a worker of its own, after it did the same to a small file."""
    worker = Worker("bench")
    try:
        commanded(worker, what, small, out)
        return commanded(worker, what, path, out)
    finally:
        worker.close()


def told(*command: str) -> dict[str, float]:
    """What a process prints: words and seconds."""
    done = subprocess.run([sys.executable, *command], check=True, capture_output=True, text=True)
    lines = (line.split() for line in done.stdout.splitlines())
    return {line[0]: float(line[1]) for line in lines if len(line) == 2 and line[0].isupper()}


def main(what: str, rounds: int, kinds: tuple[str, ...]) -> None:
    """Measure."""
    for kind in kinds:
        with tempfile.TemporaryDirectory() as folder:
            path, out = f"{folder}/{kind}.stp", f"{folder}/out.stp"
            small = f"{folder}/first.stp"
            make(path, kind)
            make(small, "one")
            count = f"{SMALL:,} small products" if kind == "small" else f"{PLACED:,} placed parts"
            print(f"{count}, {Path(path).stat().st_size / 1e6:.1f} MB")
            ratios = []
            for number in range(rounds):
                bare = told("-c", BARE, path, out)["READ" if what == "inspect" else "WRITTEN"]
                Path(out).unlink(missing_ok=True)
                ours = seconds_of(what, path, out, small)
                Path(out).unlink(missing_ok=True)
                ratios.append(ours / bare)
                print(f"  round {number + 1}: {bare:.2f} s, {what} {ours:.2f} s, {ours / bare:.2f} times")
            print(f"  {what}: {statistics.median(ratios):.2f} times the bare kernel")
        time.sleep(0.1)


if __name__ == "__main__":
    given = sys.argv[1:]
    asked = (given[2],) if len(given) > 2 else ("plates", "placed", "small")
    main(given[0] if given else "inspect", int(given[1]) if len(given) > 1 else 5, asked)
