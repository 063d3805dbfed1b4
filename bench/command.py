"""`gondrel inspect` of a small file, whole command, against the import of the bare kernel, in one run.

Run: .venv/bin/python bench/command.py [FILE] [ROUNDS]. Without a file, a bored plate of some 20 kB is made.
Prints each round and the median ratio: how many times as long the whole command takes as a process that
imports the kernel and ends.
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


def seconds(*command: str) -> float:
    begun = time.perf_counter()
    subprocess.run([sys.executable, *command], check=False, stdout=subprocess.DEVNULL)
    return time.perf_counter() - begun


def main(given: str, rounds: int) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = given or make_file(Path(folder))
        ratios = []
        for count in range(rounds):
            bare = seconds("-c", "import OCP.gp")
            ours = seconds("-m", "gondrel", "inspect", path)
            ratios.append(ours / bare)
            print(f"round {count + 1}: kernel alone {bare:.2f} s, whole command {ours:.2f} s")
        print(f"median ratio {statistics.median(ratios):.2f}")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "", int(sys.argv[2]) if len(sys.argv) > 2 else 5)
