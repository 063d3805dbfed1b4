"""Damaged inputs by the thousand: what becomes of each, in classes, and what was changed without a word.

Run: .venv/bin/python bench/damage.py [COUNT] [SEED] [FORMAT ...]. Small files of every format and a
crossing are made, and of each, damaged copies: a bit, a token, a line, a block, a cut. Each is read in a
worker process with limits. What is read is held against the undamaged file: products, bodies, faces,
areas and volumes; what differs and is not told (a note, an error) is silent. Printed: each class with its
count, and every internal error, hang, crash and silent change with the seed that makes it again.
"""

from __future__ import annotations

import json
import random
import re
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from gondrel.core.errors import GondrelError, KernelCrashed, LimitExceeded
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model import History, Model
from gondrel.core.model.notes import GRAVE, with_measured_notes
from gondrel.core.model.store import BlobStore
from gondrel.core.service.crossing import Crossing, save_crossing
from gondrel.core.service.opening import open_crossing
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import send
from gondrel.core.work import SILENT, Progress
from gondrel.jobs.messages import Job
from gondrel.jobs.worker import Worker, run_blocking
from tests.builders import small_assembly

KINDS = {
    "step-ap242": ".stp", "step-ap203": ".stp", "xt-text": ".x_t", "xt-binary": ".x_b",
    "iges-solid": ".igs", "iges-surface": ".igs", "stl": ".stl", "obj": ".obj", "crossing": ".crossing",
}  # fmt: skip
_SECONDS, _MEGABYTES = 40.0, 1_500
_ALIKE = 1e-6
_TOKEN = re.compile(rb"[#\w.+-]+")


def look(path: str, store: str, *, progress: Progress = SILENT) -> dict[str, Any]:
    """What a file holds, in figures, and the codes of what is told of it."""
    if path.endswith(".crossing"):
        model = open_crossing(path, store, progress=progress).model or Model()
    else:
        model = receive(path, store, progress=progress)
    facts = measure_all(model.blobs(), store, progress=progress)
    model = with_measured_notes(model, facts)
    census = model.provenance.census if model.provenance is not None else None
    left = (
        {f"{r.aspect}: {r.count}" for r in (*census.rest, *census.besides)} if census is not None else set()
    )
    bodies = [facts[body.blob] for _, body in model.bodies()]
    return {
        "products": len(model.products),
        "uses": sum(len(p.occurrences) for p in model.products),
        "bodies": len(bodies),
        "faces": sum(f.faces for f in bodies),
        "area": sum(f.area for f in bodies),
        "volume": sum(f.volume for f in bodies),
        "notes": sorted({f"{n.code}: {n.text}" for n in model.notes} | left),
    }


def damaged(data: bytes, chance: random.Random) -> bytes:
    """A damaged copy."""
    way = chance.randrange(9)
    at = chance.randrange(len(data))
    if way == 0:
        return data[:at]
    if way == 1:
        return data[:at] + bytes([data[at] ^ 1 << chance.randrange(8)]) + data[at + 1 :]
    if way == 2:
        size = chance.randrange(1, 200)
        return data[:at] + data[at + size :]
    if way == 3:
        size = chance.randrange(1, 200)
        return data[:at] + data[at : at + size] + data[at:]
    tokens = list(_TOKEN.finditer(data))
    if way in (4, 5, 6) and tokens:
        token, other = chance.choice(tokens), chance.choice(tokens)
        new = {
            4: other.group(),
            5: chance.choice([b"$", b"*", b"0", b"-1", b"1.E999", b"NAN", b"#99999999999999999999", b"''"]),
            6: bytes(chance.randrange(48, 58) for _ in range(len(token.group()))),
        }[way]
        return data[: token.start()] + new + data[token.end() :]
    lines = data.split(b"\n")
    place = chance.randrange(len(lines))
    if way == 7:
        return b"\n".join(lines[:place] + lines[place + 1 :])
    other_place = chance.randrange(len(lines))
    lines[place], lines[other_place] = lines[other_place], lines[place]
    return b"\n".join(lines)


def originals(folder: Path, kinds: list[str]) -> dict[str, bytes]:
    """The undamaged files."""
    store = BlobStore(folder / "made")
    model = small_assembly(store)
    found = {}
    for kind in kinds:
        out = folder / f"original-{kind}{KINDS[kind]}"
        if kind == "crossing":
            save_crossing(Crossing("gear", History.begin(model, "Receive")), out, store)
        else:
            send(model, str(out), kind, SendSettings(other_reader=False), str(folder / "made"))
        found[kind] = out.read_bytes()
    return found


def unlike(found: dict[str, Any], sound: dict[str, Any]) -> list[str]:
    """The figures that differ."""
    return [
        key
        for key in ("products", "uses", "bodies", "faces", "area", "volume")
        if abs(found[key] - sound[key]) > _ALIKE * max(abs(sound[key]), 1.0)
    ]


def attempted(act: Callable[[], Any], where: str, worst: list[str]) -> tuple[str, Any]:
    """What using a damaged file brings, with an empty word; else what it ended as, and nothing.

    Args:
        where: which file it is; worst: takes a line for each end that is a fault.
    """
    try:
        return "", act()
    except (KernelCrashed, LimitExceeded) as error:
        word = "crash" if isinstance(error, KernelCrashed) else "limit"
        worst.append(f"{word}: {where}: {error.message}")
        return word, None
    except GondrelError as error:
        if "internal error" not in error.message:
            return "clear error", None
        worst.append(f"internal: {where}: {error.message}")
        return "internal error", None


def main() -> None:
    """Damage, read, sort, print."""
    given = sys.argv[1:]
    count = int(given[0]) if given else 1000
    seed = int(given[1]) if len(given) > 1 else 1
    kinds = given[2:] or list(KINDS)
    classes: Counter[tuple[str, str]] = Counter()
    worst: list[str] = []
    worker = Worker("damage")
    began = time.monotonic()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        data = originals(folder, kinds)
        store = str(folder / "store")

        def ask(path: Path) -> dict[str, Any]:
            job = Job("bench.damage:look", (str(path), store), doing=f"reading {path.name}",
                      seconds=_SECONDS, megabytes=_MEGABYTES)  # fmt: skip
            found: dict[str, Any] = run_blocking(worker, job, lambda message: None)
            return found

        sound = {kind: ask(folder / f"original-{kind}{KINDS[kind]}") for kind in kinds}
        for number in range(count):
            kind = kinds[number % len(kinds)]
            chance = random.Random(f"{seed}.{number}")
            path = folder / f"damaged{KINDS[kind]}"
            path.write_bytes(damaged(data[kind], chance))
            where = f"{kind} {seed}.{number}"
            word, found = attempted(lambda: ask(path), where, worst)  # noqa: B023 (called at once)
            if word:
                classes[kind, word] += 1
            else:
                differs = unlike(found, sound[kind])
                fresh = set(found["notes"]) - set(sound[kind]["notes"])
                told = bool(fresh)
                word = "read alike" if not differs else "differs, told" if told else "differs in silence"
                classes[kind, word] += 1
                if differs and not told:
                    shown = {key: (sound[kind][key], found[key]) for key in differs}
                    worst.append(f"silent: {where}: {json.dumps(shown)}")
    worker.close()
    for line in worst:
        print(line)
    for (kind, word), number in sorted(classes.items()):
        print(f"{kind:14} {word:20} {number}")
    totals = Counter[str]()
    for (_, word), number in classes.items():
        totals[word] += number
    print(f"{count} inputs in {time.monotonic() - began:.0f} s: {dict(totals)}; grave codes: {len(GRAVE)}")


if __name__ == "__main__":
    main()
