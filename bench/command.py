"""`gondrel inspect` of a small file, whole command, against the import of the bare kernel, in one run.

Run: .venv/bin/python bench/command.py [FILE] [ROUNDS]. Without a file, a bored plate of some 20 kB is made.
Prints each round and two median ratios: how many times as long the whole command takes as a process that
imports the kernel and ends, and what share of that time passes until the card is told.
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model import Body, BodyKind, Model, Product
from gondrel.core.model.store import BlobStore
from gondrel.core.service.send import send


def make_file(folder: Path) -> str:
    store = BlobStore(folder / "store")
    shape = cut(block(40, 30, 8), cylinder(4, 20, at=(20, 15, -5)))
    body = Body("b", BodyKind.SOLID, "", store.put(shape_to_blob(shape)))
    path = str(folder / "plate.stp")
    send(Model((Product("p", "P-1", "Plate", bodies=(body,)),), ("p",)), path, "step-ap242", SendSettings(),
         str(store.folder))  # fmt: skip
    return path


def seconds(*command: str) -> tuple[float, float]:
    """Time until two lines were printed, and until the end."""
    begun = time.perf_counter()
    with subprocess.Popen([sys.executable, *command], stdout=subprocess.PIPE) as process:
        assert process.stdout is not None
        process.stdout.readline(), process.stdout.readline()
        first = time.perf_counter() - begun
        process.stdout.read()
    return first, time.perf_counter() - begun


def main(given: str, rounds: int) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = given or make_file(Path(folder))
        ratios, first = [], []
        for count in range(rounds):
            _, bare = seconds("-c", "import OCP.gp")
            card, whole = seconds("-m", "gondrel", "inspect", path)
            ratios.append(whole / bare)
            first.append(card / bare)
            print(f"round {count + 1}: kernel alone {bare:.2f} s, card {card:.2f} s, whole {whole:.2f} s")
        print(f"median ratios: card {statistics.median(first):.2f}, whole {statistics.median(ratios):.2f}")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "", int(sys.argv[2]) if len(sys.argv) > 2 else 5)
