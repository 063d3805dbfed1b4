"""A batch of many small files by one worker and by two, in one run, with files that fail among them.

Run: .venv/bin/python bench/batch.py [FILES]. Prints the time of each, their ratio, and what came of them:
three are bad (no model, empty, cut off).
"""

from __future__ import annotations

import contextlib
import io
import json
import shutil
import sys
import tempfile
import time
from pathlib import Path

from gondrel.cli.main import main as gondrel
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling import build
from gondrel.core.model import Body, BodyKind, Model, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all
from gondrel.core.service.settings import settings_from
from gondrel.core.service.write import write_model


def make(folder: Path, count: int) -> None:
    """Drilled plates of sizes that differ, as STEP, and the bad ones."""
    with tempfile.TemporaryDirectory() as kept:
        store = BlobStore(Path(kept))
        for number in range(count - 3):
            plate = build.cut(build.block(40 + number, 30, 10), build.cylinder(4, 30, at=(15, 15, -5)))
            body = Body("b", BodyKind.SOLID, "Plate", store.put(shape_to_blob(plate)))
            model = Model((Product("p", f"N-{number}", "Plate", bodies=(body,)),), ("p",))
            facts = measure_all(model.blobs(), kept)
            data = write_model(model, "step-ap214", settings_from({}), store, facts, name="plate.stp")
            (folder / f"plate-{number:03d}.stp").write_bytes(data)
    good = (folder / "plate-000.stp").read_bytes()
    (folder / "bad-1.stp").write_text("no model")
    (folder / "bad-2.stp").write_bytes(b"")
    (folder / "bad-3.stp").write_bytes(good[: len(good) // 3])


def run(folder: Path, out: Path, workers: int) -> tuple[float, dict[str, int]]:
    """Send all of it; how long it took, and the counts."""
    shutil.rmtree(out, ignore_errors=True)
    said, told = io.StringIO(), io.StringIO()
    begun = time.perf_counter()
    with contextlib.redirect_stdout(said), contextlib.redirect_stderr(told):
        given = ["batch", str(folder), "--to", str(out), "--as", "xt-text", "--json"]
        gondrel([*given, "--workers", str(workers)])
    return time.perf_counter() - begun, json.loads(said.getvalue())["counts"]


def main(count: int) -> None:
    with tempfile.TemporaryDirectory() as kept:
        folder, out = Path(kept) / "in", Path(kept) / "out"
        folder.mkdir()
        make(folder, count)
        one, counts = run(folder, out, 1)
        two, again = run(folder, out, 2)
        times = f"one worker {one:.1f} s, two {two:.1f} s, ratio {one / two:.2f}"
        print(f"{count} files: {times}; {counts} {again}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 200)
