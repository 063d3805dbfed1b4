"""A batch of many small files by one worker and by two, in one run, with files that fail among them.

Run: .venv/bin/python bench/batch.py [FILES]. Prints the time of each, their ratio, and what came of them:
three are bad (no model, empty, cut off). Beside it stands what two processes give over one on this machine
where nothing is shared. Then all of it once more by two workers with two further bad files: whoever reads
the one is killed, and whoever reads the other is stopped for good. It is interrupted in the middle and gone
on with; what was done twice is counted.
"""

from __future__ import annotations

import contextlib
import io
import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
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


_SPIN = "n = 0\nfor i in range(30_000_000): n += i * i % 7"


def spinning() -> float:
    """How much more two processes that only count get done than one."""

    def timed(count: int) -> float:
        begun = time.perf_counter()
        running = [subprocess.Popen([sys.executable, "-c", _SPIN]) for _ in range(count)]
        for each in running:
            each.wait()
        return time.perf_counter() - begun

    return 2 * timed(1) / timed(2)


def _readers(of: int, name: str) -> Iterator[int]:
    """Worker processes of a process that have a file of this name open or mapped."""
    for place in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError, IndexError, ValueError):
            parent = int((place / "stat").read_text().rpartition(")")[2].split()[1])
            if parent == of and name in (place / "maps").read_text():
                yield int(place.name)


def _sabotage(of: int, ended: threading.Event) -> None:
    """Kill whoever reads one file, and stop whoever reads the other."""
    while not ended.wait(0.01):
        for name, number in (("kills.stp", signal.SIGKILL), ("stops.stp", signal.SIGSTOP)):
            for worker in _readers(of, name):
                os.kill(worker, number)


def interrupted(folder: Path, out: Path, count: int) -> None:
    """The whole with all five bad files: ended in the middle, begun again; what came of it."""
    shutil.rmtree(out, ignore_errors=True)
    good = (folder / "plate-000.stp").read_bytes()
    filling = b"".join(b"#%d=CARTESIAN_POINT('',(0.,0.,0.));\n" % n for n in range(500_000, 800_000))
    for name in ("kills.stp", "stops.stp"):
        (folder / name).write_bytes(good.replace(b"ENDSEC;\nEND-ISO", filling + b"ENDSEC;\nEND-ISO"))
    command = [sys.executable, "-m", "gondrel", "batch", str(folder), "--to", str(out), "--as", "xt-text",
               "--workers", "2", "--json"]  # fmt: skip
    done: dict[str, int] = {}
    for round_ in range(2):
        process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
        ended = threading.Event()
        saboteur = threading.Thread(target=_sabotage, args=(process.pid, ended))
        saboteur.start()
        if round_ == 0:
            while len(list(out.glob("*.x_t"))) < count // 2 and process.poll() is None:
                time.sleep(0.1)
            process.terminate()
        said, _ = process.communicate()
        ended.set()
        saboteur.join()
        if round_ == 0:
            done = {p.name: p.stat().st_mtime_ns for p in out.glob("*.x_t")}
            left = [p.name for p in out.iterdir() if p.is_dir()]
            print(f"interrupted after {len(done)} files (status {process.returncode}), left behind: {left}")
    made = json.loads(said)
    twice = [n for n, time_ in done.items() if (out / n).stat().st_mtime_ns != time_]
    print(f"gone on with: {made['counts']}, written twice: {len(twice)}")
    for each in made["files"]:
        if each["verdict"] == "failed":
            print(f"  {Path(each['path']).name}: {each['error'][:150]}")


def main(count: int) -> None:
    with tempfile.TemporaryDirectory() as kept:
        folder, out = Path(kept) / "in", Path(kept) / "out"
        folder.mkdir()
        make(folder, count - 2)
        one, counts = run(folder, out, 1)
        two, again = run(folder, out, 2)
        times = f"one worker {one:.1f} s, two {two:.1f} s, ratio {one / two:.2f}"
        print(f"{count - 2} files: {times}; {counts} {again}", flush=True)
        print(f"two processes that share nothing give {spinning():.2f} over one here", flush=True)
        interrupted(folder, out, count)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 200)
