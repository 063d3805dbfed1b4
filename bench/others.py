"""Made parts and assemblies as another reader sees them: the stock document reader on what we send.

Run: .venv/bin/python bench/others.py [COUNT]. Sends COUNT (200) parts and assemblies, made by chance from a
fixed seed of the shapes of tests/shapes.py, to AP242, AP214, AP203 and IGES solids. Prints how many of each
are seen otherwise than sent: products, uses, bodies, areas and volumes, colours; and what the other reader
costs beside our own proof.
"""

from __future__ import annotations

import random
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from gondrel.core.carriage.other import OTHERWISE
from gondrel.core.kernel.base.shape import shape_to_blob, split_bodies
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product, Rgba
from gondrel.core.model.store import BlobStore
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.shapes import all_made, moved

KINDS = ("step-ap242", "step-ap214", "step-ap203", "iges-solid")


def model_by_chance(chance: random.Random, store: BlobStore, number: int) -> Model:
    """A part of one to three bodies, or an assembly of two such parts placed two to five times."""
    made = all_made()

    def part(key: str) -> Product:
        bodies = []
        for n in range(chance.choice((1, 1, 2, 3))):
            shape = split_bodies(chance.choice(made).make())[0][1]
            way = tuple(chance.gauss(0, 1) for _ in range(3))
            shift = tuple(chance.uniform(-90, 90) for _ in range(3))
            blob = store.put(shape_to_blob(moved(shape, way, chance.uniform(0, 6), shift)))
            colour = chance.choice((None, Rgba(1, 0, 0), Rgba(0.2, 0.4, 0.6)))
            bodies.append(
                Body(f"{key}b{n}", BodyKind.SOLID, chance.choice(("", f"body {n}")), blob, colour)
            )
        return Product(key, f"N-{key}", f"Part {number} {key}", bodies=tuple(bodies))

    if chance.random() < 0.6:
        return Model((part("a"),), ("a",))
    parts = (part("a"), part("b"))
    uses = tuple(
        Occurrence(
            f"o{n}",
            chance.choice("ab"),
            f"use {n}",
            (1, 0, 0, 40.0 * n, 0, 1, 0, 7, 0, 0, 1, 0, 0, 0, 0, 1),
        )
        for n in range(chance.randint(2, 5))
    )
    used = {use.product for use in uses}
    whole = Product("top", f"T-{number}", f"Assembly {number}", occurrences=uses)
    return Model((whole, *(p for p in parts if p.id in used)), ("top",))


def main() -> None:
    """Send, count and print."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    chance = random.Random(20260101)
    seen: dict[str, Counter[str]] = {kind: Counter() for kind in KINDS}
    seconds = Counter[str]()
    told = []
    with tempfile.TemporaryDirectory() as folder:
        store = BlobStore(Path(folder) / "store")
        for number in range(count):
            model = model_by_chance(chance, store, number)
            for kind in KINDS:
                for other in ("yes", "no"):
                    settings = settings_from({"other_reader": other})
                    start = time.perf_counter()
                    sent = send(model, f"{folder}/out", kind, settings, str(store.folder))
                    seconds[other] += time.perf_counter() - start
                    if other == "no":
                        continue
                    lines = [line for line in sent.proof.other if line.verdict == OTHERWISE]
                    seen[kind].update({line.thing for line in lines})
                    seen[kind]["unannounced"] += bool(sent.proof.unannounced)
                    seen[kind]["files"] += 1
                    told += [
                        (kind, number, line.thing, line.item, line.before, line.after) for line in lines
                    ]
    columns = ("files", "structure", "placement", "bodies", "geometry", "colours", "unannounced")
    print("kind         " + "".join(f"{c:>13}" for c in columns))
    for kind in KINDS:
        print(f"{kind:<13}" + "".join(f"{seen[kind][c]:>13}" for c in columns))
    for line in told[:20]:
        print("  ", *line)
    print(f"sending and proving with the other reader to without: {seconds['yes'] / seconds['no']:.2f}")


if __name__ == "__main__":
    main()
