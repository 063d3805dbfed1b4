"""Looking for overlaps among 500 placed solids, against the bare kernel's intersection of the same pairs.

Run: .venv/bin/python bench/overlaps.py
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common

from gondrel.core.checks.overlap import find_shared
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cut, cylinder, moved
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore


def main() -> None:
    """A wall of 500 bored bricks, 50 of them different, each reaching into its neighbours."""
    with tempfile.TemporaryDirectory() as folder:
        store = BlobStore(Path(folder))
        shapes = [cut(block(20, 10, 8), cylinder(2 + 0.02 * i, 30, at=(10, 5, -5))) for i in range(50)]
        parts = [
            Product(f"p{i}", f"N-{i}", f"Brick {i}",
                    bodies=(Body(f"b{i}", BodyKind.SOLID, "", store.put(shape_to_blob(s))),))
            for i, s in enumerate(shapes)
        ]  # fmt: skip
        places = [(19.9 * (i % 25), 0.0, 8.0 * (i // 25)) for i in range(500)]
        uses = tuple(
            Occurrence(f"o{i}", f"p{i % 50}", "", (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z, 0, 0, 0, 1))
            for i, (x, y, z) in enumerate(places)
        )
        model = Model((Product("top", "T", "Wall", occurrences=uses), *parts), ("top",))
        begun = time.perf_counter()
        found = list(find_shared(model, store))
        ours = time.perf_counter() - begun
        begun = time.perf_counter()
        for i in range(1, 500):
            if i % 25:
                one = moved(shapes[(i - 1) % 50], by=places[i - 1])
                BRepAlgoAPI_Common(one, moved(shapes[i % 50], by=places[i])).Shape()
        bare = time.perf_counter() - begun
        print(f"500 placed solids, {len(found)} overlaps: {ours:.2f} s; bare kernel {bare:.2f} s; "
              f"ratio {ours / bare:.2f}")  # fmt: skip


if __name__ == "__main__":
    main()
