"""Damaged crates, recipient cards, steps, drawings, glTF and 3MF by the thousand: what becomes of each.

Run: .venv/bin/python bench/damage_others.py [COUNT] [SEED] [KIND ...]. Of each kind one sound file is made,
and of it damaged copies as bench/damage.py makes them. Each is used in a worker process with limits as the
application uses it: a crate is taken into an empty register and its items taken out again, a card forecasts
a model, steps run on a model, a drawing is read, a mesh file is received. Printed: each class with its
count, and every internal error, hang, crash and every crate that was taken in with another content without
a word. Cards, steps and drawings have no figure that vouches for them: another number in them is
another number, so what is read otherwise is counted, and no fault.
"""

from __future__ import annotations

import hashlib
import json
import random
import sys
import tempfile
import time
from collections import Counter
from dataclasses import replace
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from bench.damage import attempted, damaged
from gondrel.core.arrange.steps.file import read_steps
from gondrel.core.arrange.steps.runner import run_steps
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model import Model
from gondrel.core.model.codec import to_plain
from gondrel.core.model.registered import Reach
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.card import cards, read_card, save_card
from gondrel.core.register.crates import read_crate
from gondrel.core.register.keeping import Author, put_model, take_out
from gondrel.core.register.living import release
from gondrel.core.register.looking import listed
from gondrel.core.register.opening import open_register
from gondrel.core.register.packing import pack, packed_revisions
from gondrel.core.register.unpacking import checked, unpack
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.recipients import expect
from gondrel.core.service.send import forecast_for, send
from gondrel.core.sheet.dxf_in import read_dxf
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import private_folder
from gondrel.demo.bracket import bracket_drawing
from gondrel.jobs.messages import Job
from gondrel.jobs.worker import Worker, run_blocking
from tests.builders import small_assembly
from tests.core.register.gears import two_gears

KINDS = {
    "crate": ".crate", "card": ".card.toml", "steps": ".toml", "dxf": ".dxf", "glb": ".glb", "3mf": ".3mf",
}  # fmt: skip
_VOUCHED = ("crate",)
_SECONDS, _MEGABYTES = 40.0, 1_500
_ANNA = Author("anna", "2026-11-29T00:00:00.000000Z")
_STEPS = """version = 1
[[step]]
do = "set"
field = "description"
value = "as it came"
[[step]]
do = "hole"
at = [10, 10, 20]
into = [0, 0, -1]
diameter = 4
[[step]]
do = "merge"
"""


def use(kind: str, path: str, folder: str, *, progress: Progress = SILENT) -> Any:
    """What comes of using a file, in plain values."""
    return {"crate": _crate, "card": _card, "steps": _steps, "dxf": _dxf}.get(kind, _mesh)(path, folder)


def _crate(path: str, folder: str) -> Any:
    with private_folder(Path(folder)) as place:
        opened = open_register(str(place / "reg.sqlite"))
        try:
            crate = read_crate(path)
            with checked(crate, opened.store) as looked_at, opened.writing() as connection:
                unpack(connection, opened.store, looked_at, _ANNA)
            with opened.reading() as connection:
                rows = sorted(listed(connection, Reach()), key=lambda row: str(row.name))
                models = [take_out(connection, row.id) for row in rows]
            told = [[str(row.name), str(row.state), row.label, _content(m)] for row, m in
                    zip(rows, models, strict=True)]  # fmt: skip
            blobs = {
                key: hashlib.sha256(opened.store.get(key)).hexdigest() for m in models for key in m.blobs()
            }
            return {"rows": told, "sound": all(key == found for key, found in blobs.items())}
        finally:
            opened.close()


def _content(model: Model) -> str:
    plain = to_plain(replace(model, provenance=None))
    return hashlib.sha256(json.dumps(plain, sort_keys=True).encode()).hexdigest()


def _model(folder: str) -> tuple[Model, BlobStore]:
    store = BlobStore(Path(folder) / "store")
    return small_assembly(store), store


def _card(path: str, folder: str) -> Any:
    model, store = _model(folder)
    settings, card = SendSettings(), read_card(Path(path))
    forecast = forecast_for(model, "step-ap242", settings, str(store.folder))
    return repr(expect(model, card, "step-ap242", settings, str(store.folder), forecast))


def _steps(path: str, folder: str) -> Any:
    model, store = _model(folder)
    after, outcomes = run_steps(model, read_steps(path), store)
    return [_content(after), [repr(each) for each in outcomes]]


def _dxf(path: str, folder: str) -> Any:
    sheet = read_dxf(path)
    return [len(sheet.curves), repr(sheet.curves), len(sheet.texts), [n.text for n in sheet.notes]]


def _mesh(path: str, folder: str) -> Any:
    store = f"{folder}/store"
    model = receive(path, store)
    facts = measure_all(model.blobs(), store)
    return [len(model.products), [round(f.area, 6) for f in facts.values()], [n.text for n in model.notes]]


def originals(folder: Path, kinds: list[str]) -> dict[str, bytes]:
    """The sound files."""
    store = BlobStore(folder / "made")
    makers = {
        "crate": lambda out: _packed(folder, out),
        "card": lambda out: save_card(next(iter(cards())), out),
        "steps": lambda out: out.write_text(_STEPS),
        "dxf": lambda out: out.write_bytes(bracket_drawing()),
        "glb": lambda out: send(small_assembly(store), str(out), "gltf", SendSettings(), str(store.folder)),
        "3mf": lambda out: send(small_assembly(store), str(out), "3mf", SendSettings(), str(store.folder)),
    }
    found = {}
    for kind in kinds:
        out = folder / f"original{KINDS[kind]}"
        makers[kind](out)
        found[kind] = out.read_bytes()
    return found


def _packed(folder: Path, out: Path) -> None:
    opened, store = open_register(str(folder / "source.sqlite")), BlobStore(folder / "gears")
    model = two_gears(store)
    with opened.writing() as connection:
        put_model(connection, opened.store, model, store, _ANNA)
        release(connection, "GN", _ANNA, with_all=True)
    names = ["GN", "GS"]
    with opened.reading() as connection, out.open("wb") as stream:
        pack(connection, opened.store, names, packed_revisions(connection, names), stream)
    opened.close()


def main() -> None:
    """Damage, use, sort, print."""
    given = sys.argv[1:]
    count, seed = int(given[0]) if given else 1000, int(given[1]) if len(given) > 1 else 1
    kinds = given[2:] or list(KINDS)
    classes: Counter[tuple[str, str]] = Counter()
    worst: list[str] = []
    worker, began = Worker("damage"), time.monotonic()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        data = originals(folder, kinds)

        def ask(kind: str, path: Path) -> Any:
            job = Job("bench.damage_others:use", (kind, str(path), name), doing=f"using {path.name}",
                      seconds=_SECONDS, megabytes=_MEGABYTES)  # fmt: skip
            return run_blocking(worker, job, lambda message: None)

        sound = {kind: ask(kind, folder / f"original{KINDS[kind]}") for kind in kinds}
        for number in range(count):
            kind = kinds[number % len(kinds)]
            path = folder / f"damaged{KINDS[kind]}"
            path.write_bytes(damaged(data[kind], random.Random(f"{seed}.{number}")))
            where = f"{kind} {seed}.{number}"
            word, found = attempted(lambda: ask(kind, path), where, worst)  # noqa: B023 (called at once)
            if not word:
                word = "read alike" if found == sound[kind] else "read otherwise"
                if word == "read otherwise" and kind in _VOUCHED:
                    worst.append(f"silent: {where}")
            classes[kind, word] += 1
    worker.close()
    for line in worst:
        print(line)
    for (kind, word), number in sorted(classes.items()):
        print(f"{kind:8} {word:16} {number}")
    print(f"{sum(classes.values())} files in {time.monotonic() - began:.0f} s, {len(worst)} faults")


if __name__ == "__main__":
    main()
