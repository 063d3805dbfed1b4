"""Checking against reading the same file as sent, and one processor against all, in one run.

Run: .venv/bin/python bench/checking.py [FILE]. Without a file, a part of some 9 MB is made. Prints the
seconds of reading the file raw (receive), of all checks on it, and their ratio; then the seconds of
checking eight sizes of each of the demo's bodies with one process and with two. Measuring is left
out on both sides: the application has measured before it checks.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

from parts import make_heavy_part

from gondrel.core.checks import runner
from gondrel.core.kernel.base.shape import moved_blob
from gondrel.core.model import Model, Product
from gondrel.core.model.findings import CheckLimits
from gondrel.core.model.store import BlobStore
from gondrel.core.service.receive import measure_all, receive
from gondrel.demo.make import make_demo
from gondrel.jobs.child import collect_seldom

ROUNDS = 5
SIZES = 8


def one_part(path: str) -> None:
    """Reading raw against checking, each round with an empty store."""
    for number in range(ROUNDS):
        with tempfile.TemporaryDirectory() as folder:
            start = time.perf_counter()
            model = receive(path, folder)
            read = time.perf_counter() - start
            measure_all(model.blobs(), folder)
            start = time.perf_counter()
            report = runner.check_model(model, BlobStore(Path(folder)), overlaps=False)
            checked = time.perf_counter() - start
            examined = sum(count for _, count in report.examined)
            print(
                f"round {number + 1}: as-sent read {read:.2f} s, checks {checked:.2f} s on {examined:,} "
                f"faces, edges and vertices, ratio {checked / read:.2f}"
            )


def many_parts() -> None:
    """Checking the demo's bodies, each in eight sizes, with one process and with two."""
    with tempfile.TemporaryDirectory() as folder:
        model = receive(make_demo(folder + "/demo"), folder)
        store = BlobStore(Path(folder))
        bodies = [body for _, body in model.bodies()]
        products = []
        for number in range(SIZES):
            size = 1.0 + 0.1 * number
            scale = (size, 0, 0, 0, 0, size, 0, 0, 0, 0, size, 0, 0, 0, 0, 1)
            for body in bodies:
                blob = store.put(moved_blob(store.get(body.blob), scale))
                key = f"{body.id}-{number}"
                product = Product(
                    key, key, body.name, bodies=(type(body)(key, body.kind, body.name, blob),)
                )
                products.append(product)
        whole = Model(tuple(products), tuple(p.id for p in products))
        measure_all(whole.blobs(), folder)
        shared = runner._WORTH_SHARING
        seconds = []
        for number, worth in enumerate((sys.maxsize, shared)):
            runner._WORTH_SHARING = worth
            limits = CheckLimits(gap=0.01 + 1e-9 * number)  # so that nothing kept is used
            start = time.perf_counter()
            runner.check_model(whole, store, limits, overlaps=False)
            seconds.append(time.perf_counter() - start)
        print(
            f"{len(products)} bodies: one process {seconds[0]:.2f} s, two {seconds[1]:.2f} s, "
            f"ratio {seconds[1] / seconds[0]:.2f}"
        )


def main() -> None:
    """Run both and print."""
    collect_seldom()
    if len(sys.argv) > 1:
        one_part(sys.argv[1])
    else:
        with tempfile.TemporaryDirectory() as folder:
            path = str(Path(folder) / "heavy.stp")
            make_heavy_part(path)
            one_part(path)
    many_parts()


if __name__ == "__main__":
    main()
