"""Damaged files: an error or notes, never a crash, a hang or more memory than a file deserves.

Two thousand damaged files are read in one child process that is told off when it takes too long; the
damage is made by a seeded generator, so that a failure comes again.
"""

from __future__ import annotations

import json
import subprocess
import sys
import time
from pathlib import Path

import pytest

pytestmark = pytest.mark.slow

COUNT = 2_000
WORKER = '''
import json, random, sys, time
from pathlib import Path
from gondrel.core.errors import GondrelError
from gondrel.core.formats.xt.binary import write_binary
from gondrel.core.formats.xt.nodes import Document
from gondrel.core.formats.xt.read import read
from gondrel.core.formats.xt.text import write_text
from gondrel.core.model.store import BlobStore
from tests.core.formats.xt.damage import damaged
from tests.core.formats.xt.shapes import BINARY, all_shapes, document_of

folder, first, count = Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
shapes = all_shapes()
sources = []
for name in ("block with hole", "cone", "spline prism", "filleted block", "sheet"):
    document = document_of(shapes[name])
    sources += [write_text(document), write_binary(Document(BINARY, document.schema, document.nodes))]
store = BlobStore(folder / "store")


def peak_memory():
    """In MB, of this process alone: ru_maxrss would begin at the size of the process that started it."""
    status = Path("/proc/self/status").read_text().splitlines()
    return next(int(line.split()[1]) for line in status if line.startswith("VmHWM")) / 1024


for seed in range(first, first + count):
    print(json.dumps({"begun": seed}), flush=True)
    chance = random.Random(seed)
    data = damaged(chance.choice(sources), chance)
    path = folder / "damaged.x_t"
    path.write_bytes(data)
    begun = time.perf_counter()
    try:
        model = read(str(path), store)
        outcome = "read with notes" if model.notes else "read"
    except GondrelError as error:
        outcome = "refused"
        assert str(error) and (error.where or error.message)
    peak = peak_memory()
    took = time.perf_counter() - begun
    print(json.dumps({"seed": seed, "outcome": outcome, "seconds": took, "peak": peak}),
          flush=True)
'''


def test_two_thousand_damaged_files(tmp_path: Path) -> None:
    outcomes: dict[str, int] = {}
    slowest, peak = 0.0, 0.0
    begun = time.monotonic()
    command = [sys.executable, "-c", WORKER, str(tmp_path), "0", str(COUNT)]
    done = subprocess.run(
        command, capture_output=True, encoding="utf-8", errors="replace", timeout=600, check=False
    )
    last = -1
    for line in done.stdout.splitlines():
        told = json.loads(line)
        last = told.get("begun", last)
        if "outcome" in told:
            outcomes[told["outcome"]] = outcomes.get(told["outcome"], 0) + 1
            slowest, peak = max(slowest, told["seconds"]), max(peak, told["peak"])
    assert done.returncode == 0, f"seed {last}: {done.returncode} {done.stderr[-2000:]}"
    print(f"\n{outcomes}, slowest {slowest:.2f} s, {peak:.0f} MB, {time.monotonic() - begun:.0f} s in all")
    assert sum(outcomes.values()) == COUNT
    assert outcomes["refused"] > COUNT / 10
    assert slowest < 10.0 and peak < 1_000.0
