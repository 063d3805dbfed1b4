"""10,000 bodies of 200 shapes taken for equal ones, against reading the same bodies, in one run.

Run: .venv/bin/python bench/likeness.py [BODIES] [SHAPES]. Prints the time of reading every body, of
finding which are alike, landmarks included, by two processes, and their ratio. The figures by which
bodies are told apart first (volume, area, moments) are measured before, as they are when a file is
received.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from scipy.spatial.transform import Rotation

from gondrel.core.kernel.base.shape import moved_copy, shape_from_blob, shape_to_blob
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.modelling import build
from gondrel.core.likeness.stored import like_bodies
from gondrel.core.model.store import BlobStore


def shapes(count: int) -> list[object]:
    """Plates, turned parts and drilled blocks of sizes that differ a little."""
    made: list[object] = []
    for number in range(count):
        size = 20 + 0.05 * number
        if number % 3 == 0:
            made.append(build.cut(build.block(size, 15, 8), build.cylinder(3, 20, at=(6, 7, -5))))
        elif number % 3 == 1:
            made.append(build.turned([(0, 0), (4, 0), (4, size), (7, size), (7, size + 5), (0, size + 5)]))
        else:
            made.append(build.block(size, 12, 9))
    return made


def main(bodies: int, kinds: int) -> None:
    rng = np.random.default_rng(3)
    with tempfile.TemporaryDirectory() as folder:
        store = BlobStore(Path(folder))
        first, keys = shapes(kinds), []
        for number in range(bodies):
            matrix = np.eye(4)
            matrix[:3, :3] = Rotation.random(random_state=number).as_matrix()
            matrix[:3, 3] = rng.uniform(-900, 900, 3)
            shape = moved_copy(first[number % kinds], tuple(matrix.ravel().tolist()))  # type: ignore[arg-type]
            keys.append(store.put(shape_to_blob(shape)))
        facts = {key: facts_of(store, key) for key in keys}
        begun = time.perf_counter()
        for key in keys:
            shape_from_blob(store.get(key))
        reading = time.perf_counter() - begun
        begun = time.perf_counter()
        groups = like_bodies(keys, facts, store)
        grouping = time.perf_counter() - begun
        assert len(groups) == kinds, f"{len(groups)} groups of {kinds} shapes"
        print(f"reading {reading:.1f} s, likeness {grouping:.1f} s, ratio {grouping / reading:.1f}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 10_000, int(sys.argv[2]) if len(sys.argv) > 2 else 200)
