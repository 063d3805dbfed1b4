"""A register of 20,000 items looked into; a crate of 2,000 items against copying and hashing its bytes.

Run: .venv/bin/python bench/register.py
"""

from __future__ import annotations

import hashlib
import os
import random
import shutil
import statistics
import tempfile
import time
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from gondrel.core.model import Body, BodyKind, Occurrence, Product
from gondrel.core.model.codec import to_plain
from gondrel.core.model.registered import Reach
from gondrel.core.register.crates import read_crate
from gondrel.core.register.keeping import Author, Entry, content_of, new_revision
from gondrel.core.register.looking import listed, revision_named, revisions_of, where_used
from gondrel.core.register.opening import Opened, open_register
from gondrel.core.register.packing import pack, packed_revisions
from gondrel.core.register.unpacking import checked, unpack

ITEMS, PACKED, BYTES, ROUNDS = 20_000, 2_000, 60_000, 5
ANNA = Author("anna", "2026-11-29T00:00:00.000000Z")


def filled(folder: Path, count: int, size: int) -> Opened:
    """Parts, assemblies of ten of them, assemblies of ten of these and one of all: every part is used."""
    opened = open_register(str(folder / "reg.sqlite"))
    chance = random.Random(1)
    level: list[tuple[str, str]] = []
    with opened.writing() as connection:
        for n in range(count * 9 // 10):
            key = opened.store.put(chance.randbytes(size)) if size else f"{n:064}"
            product: dict[str, Any] = _plain(Body("b0", BodyKind.SOLID, f"Part {n}", key), name=f"Part {n}")
            content = content_of(product, [])
            entry = Entry(f"Part {n}", "", product, (key,), (), content, 0)
            level.append((new_revision(connection, f"P-{n:05}", ("A", 1), entry, ANNA), content))
        made, height = len(level), 0
        while len(level) > 1 and made < count:
            height += 1
            above: list[tuple[str, str]] = []
            for first in range(0, len(level), 10):
                below = level[first : first + 10]
                plain = [to_plain(Occurrence("", "", f"Place {place}")) for place in range(len(below))]
                uses = tuple((key, use) for (key, _), use in zip(below, plain, strict=True))
                product = _plain(name=f"Set {height}-{first}")
                content = content_of(product, [(c, use) for (_, c), use in zip(below, plain, strict=True)])
                entry = Entry(product["name"], "", product, (), uses, content, height)
                number = f"S{height}-{first:05}"
                above.append((new_revision(connection, number, ("A", 1), entry, ANNA), content))
            level, made = above, made + len(above)
    return opened


def _plain(*bodies: Body, name: str) -> dict[str, Any]:
    plain: dict[str, Any] = to_plain(Product("", "", name, bodies=bodies))
    return plain


def timed(act: Callable[[], object]) -> float:
    """The median of some runs, seconds."""
    times = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        act()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def looks(folder: Path) -> None:
    """What a look into a large register takes."""
    opened = filled(folder, ITEMS, 0)
    with opened.reading() as connection:
        count = len(listed(connection, Reach(most=1_000_000)))
        part = revision_named(connection, "P-00077").id
        acts = {
            "search": lambda: listed(connection, Reach("art 1234")),
            "first thousand": lambda: listed(connection, Reach()),
            "where used and use map": lambda: where_used(connection, part),
            "revisions of one": lambda: revisions_of(connection, "P-01234"),
        }
        for name, act in acts.items():
            print(f"{count:,} items, {name}: {timed(act):.3f} s (wanted 0.3)")
    opened.close()


def crates(folder: Path) -> None:
    """Packing and unpacking against copying and hashing the same bytes."""
    opened = filled(folder, PACKED, BYTES)
    with opened.reading() as connection:
        top = max(listed(connection, Reach(most=1_000_000)), key=lambda r: (r.uses, r.label)).name
        names = [str(r.name) for r in listed(connection, Reach("Set", most=1_000_000))]
        path = folder / "a.crate"

        def packed() -> None:
            with path.open("wb") as stream:
                pack(connection, opened.store, names, packed_revisions(connection, names), stream)

        packing = timed(packed)
    assert top

    def copied() -> None:
        shutil.copyfile(path, folder / "copy")
        digest = hashlib.sha256()
        with (folder / "copy").open("rb") as stream:
            while chunk := stream.read(1 << 20):
                digest.update(chunk)

    def laid_out() -> None:
        shutil.rmtree(folder / "pieces", ignore_errors=True)
        (folder / "pieces").mkdir()
        with zipfile.ZipFile(path) as archive:
            for n, name in enumerate(archive.namelist()):
                data = archive.read(name)
                hashlib.sha256(data).digest()
                (folder / "pieces" / str(n)).write_bytes(data)

    base, by_piece = timed(copied), timed(laid_out)
    times = []
    for n in range(ROUNDS):
        place = folder / f"to-{n}"
        place.mkdir()
        other = open_register(str(place / "reg.sqlite"))
        start = time.perf_counter()
        with checked(read_crate(str(path)), other.store) as looked_at, other.writing() as connection:
            unpack(connection, other.store, looked_at, ANNA)
        times.append(time.perf_counter() - start)
        other.close()
        shutil.rmtree(place)
    unpacking = statistics.median(times)
    size = os.path.getsize(path) / 1e6
    print(f"crate of {PACKED:,} items, {size:.0f} MB: copy and hash {base:.2f} s")
    print(f"  pack {packing:.2f} s, {packing / base:.1f} times (wanted 3)")
    print(f"  unpack {unpacking:.2f} s, {unpacking / base:.1f} times (wanted 3)")
    print(f"  its pieces copied one by one and hashed: {by_piece:.2f} s, {by_piece / base:.1f} times")
    opened.close()


def main() -> None:
    """Both, each in a folder of its own."""
    for act in (looks, crates):
        with tempfile.TemporaryDirectory() as folder:
            act(Path(folder))


if __name__ == "__main__":
    main()
