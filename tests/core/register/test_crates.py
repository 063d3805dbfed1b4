"""Crates: whole, taken in as the same items or as a copy, refused by name where anything is wrong."""

from __future__ import annotations

import errno
import hashlib
import io
import json
import random
import re
import subprocess
import sys
import time
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.errors import (
    GondrelError,
    InputError,
    LimitExceeded,
    MalformedFile,
    UsageError,
    WriteFailed,
)
from gondrel.core.model.provenance import FileFacts, Provenance
from gondrel.core.model.registered import Reach
from gondrel.core.model.store import BlobStore
from gondrel.core.register.crates import read_crate, verify
from gondrel.core.register.errors import ContentConflict
from gondrel.core.register.keeping import SOURCE, Author, put_model
from gondrel.core.register.living import release
from gondrel.core.register.looking import events_of, listed, revision_named, revisions_of, where_used
from gondrel.core.register.opening import open_register
from gondrel.core.register.packing import pack, packed_revisions
from gondrel.core.register.repointing import repoint
from gondrel.core.register.unpacking import checked, conflicts_of, unpack
from gondrel.core.service.crates import crate_command
from tests.conftest import ROOT
from tests.core.register.gears import two_gears, with_pinion
from tests.core.register.test_register import IS_LONG

ANNA = Author("anna")


def a_register(path: Path):
    """Two gears, one of them repointed to a pinion of the next major revision, all released."""
    store = BlobStore(path / "made")
    opened = open_register(str(path / "reg.sqlite"))
    model = two_gears(store)
    with opened.writing() as connection:
        put_model(connection, opened.store, model, store, ANNA)
        release(connection, "GN", ANNA, with_all=True)
        release(connection, "GS", ANNA, with_all=True)
        bigger = with_pinion(model, store, 14)
        alone = replace(bigger, products=(bigger.product("PI"),), roots=("PI",))
        put_model(connection, opened.store, alone, store, ANNA, next_major=True)
        repoint(connection, "PI/A.1", "PI/B.1", ANNA, within=["GN"])
        release(connection, "GN", ANNA, with_all=True)
    return opened


def crate_with(opened, names, **how) -> bytes:
    stream = io.BytesIO()
    with opened.reading() as connection:
        revisions = packed_revisions(connection, names, **how)
        pack(connection, opened.store, names, revisions, stream)
    return stream.getvalue()


def take(opened, crate, author=ANNA, **how):
    with checked(crate, opened.store) as looked_at, opened.writing() as connection:
        return unpack(connection, opened.store, looked_at, author, **how)


@pytest.fixture(scope="module")
def packed(tmp_path_factory) -> bytes:
    opened = a_register(tmp_path_factory.mktemp("register"))
    data = crate_with(opened, ["GN", "GS"])
    opened.close()
    return data


def crate_of(data: bytes, folder: Path):
    path = folder / "a.crate"
    path.write_bytes(data)
    return read_crate(str(path))


def told(opened):
    """Everything of a register but identities and times of its own."""
    with opened.reading() as connection:
        rows = []
        for item in listed(connection, Reach()):
            for r in revisions_of(connection, item.name.number):
                uses = [(str(w.use.parent), w.use.count, w.level) for w in where_used(connection, r.id)]
                history = [(e.what, e.who) for e in events_of(connection, r.name.number)]
                rows.append(
                    (str(r.name), r.label, str(r.state), r.content, r.bodies, sorted(uses), history)
                )
    return rows


def test_what_a_crate_holds(packed, tmp_path) -> None:
    crate = crate_of(packed, tmp_path)
    assert verify(crate) == []
    names = [f"{r['number']}/{r['major']}.{r['minor']}" for r in crate.revisions]
    assert sorted(names) == sorted(
        ["SH/A.1", "PI/A.1", "PI/B.1", "SS/A.1", "SS/A.2", "CASE/A.1", "GN/A.1", "GN/A.2", "GS/A.1"]
    )
    with zipfile.ZipFile(tmp_path / "a.crate") as archive:  # readable without us
        manifest = json.loads(archive.read("manifest.json"))
        for key in manifest["pieces"]:
            assert hashlib.sha256(archive.read(f"pieces/{key}")).hexdigest() == key


def test_only_what_is_used(tmp_path) -> None:
    opened = a_register(tmp_path)
    crate = crate_of(crate_with(opened, ["GN"], all_revisions=False), tmp_path)
    opened.close()
    assert {f"{r['number']}/{r['major']}.{r['minor']}" for r in crate.revisions} == {
        "SH/A.1", "PI/B.1", "SS/A.2", "CASE/A.1", "GN/A.2",
    }  # fmt: skip


def test_taken_in_elsewhere_everything_is_as_it_was(packed, tmp_path) -> None:
    (tmp_path / "one").mkdir()
    first = a_register(tmp_path / "one")
    second = open_register(str(tmp_path / "two.sqlite"))
    take(second, crate_of(packed, tmp_path), Author("otto"))
    bare = [row[:6] for row in told(first)]
    assert [row[:6] for row in told(second)] == bare
    for ours, theirs in zip(told(first), told(second), strict=True):
        assert set(ours[6]) <= set(theirs[6])  # with who made it there, and that it came in here
    for key in {blob for row in told(second) for blob in row[4]}:
        assert second.store.has(key)
    first.close()
    second.close()


def test_taken_in_again_nothing_changes(packed, tmp_path) -> None:
    opened = open_register(str(tmp_path / "reg.sqlite"))
    crate = crate_of(packed, tmp_path)
    take(opened, crate, ANNA)
    before = told(opened)
    again = take(opened, crate)
    assert {put.what for put in again} == {"recognised"} and told(opened) == before
    opened.close()


def test_an_independent_copy(packed, tmp_path) -> None:
    opened = open_register(str(tmp_path / "reg.sqlite"))
    crate = crate_of(packed, tmp_path)
    take(opened, crate, ANNA)
    before = told(opened)
    take(opened, crate, Author("otto"), as_copy="{number}-T")
    after = told(opened)
    assert [row for row in after if "-T/" not in row[0]] == before
    copies = {row[0].replace("-T/", "/"): row for row in after if "-T/" in row[0]}
    for row in before:
        copy = copies[row[0]]
        assert copy[1:3] == row[1:3] and copy[4] == row[4]
        assert [(u.replace("-T/", "/"), n, level) for u, n, level in copy[5]] == row[5]
    with opened.reading() as connection:
        one, copy = revision_named(connection, "PI/B.1"), revision_named(connection, "PI-T/B.1")
    assert copy.lineage == one.id and copy.id != one.id and copy.item != one.item
    with pytest.raises(UsageError, match="already"):
        take(opened, crate, ANNA, as_copy="{number}-T")
    for rule in ("same", "{other}"):
        with pytest.raises(UsageError):
            take(opened, crate, ANNA, as_copy=rule)
    opened.close()


def test_a_conflict_is_shown_and_resolved_by_the_user(packed, tmp_path) -> None:
    for how, names in (("ours", ["PI/A.1", "PI/B.1"]), ("theirs", ["PI/A.1", "PI/A.2", "PI/B.1"])):
        folder = tmp_path / how
        folder.mkdir()
        opened = open_register(str(folder / "reg.sqlite"))
        store = BlobStore(folder / "made")
        model = with_pinion(two_gears(store), store, 11)
        with opened.writing() as connection:
            put_model(connection, opened.store, model, store, Author("otto"))
        before = told(opened)
        crate = crate_of(packed, folder)
        with opened.reading() as connection:
            found = conflicts_of(connection, crate)
        assert [str(c.name) for c in found] == ["PI/A.1", "SS/A.1", "GN/A.1", "GS/A.1"]
        assert found[0].ours[1] != found[0].theirs[1]
        with pytest.raises(ContentConflict, match=re.escape("PI/A.1")):
            take(opened, crate, ANNA)
        assert told(opened) == before
        take(opened, crate, resolved={str(c.name): how for c in found})
        with opened.reading() as connection:
            assert [str(r.name) for r in revisions_of(connection, "PI")] == names
        opened.close()


def test_received_files_go_along(tmp_path) -> None:
    store = BlobStore(tmp_path / "made")
    opened = open_register(str(tmp_path / "reg.sqlite"))
    file = tmp_path / "pinion.stp"
    file.write_bytes(b"as it was received")
    key = hashlib.sha256(file.read_bytes()).hexdigest()
    model = replace(two_gears(store), provenance=Provenance(FileFacts(str(file), 18, "step"), key))
    with opened.writing() as connection:
        put_model(connection, opened.store, model, store, ANNA)
    file.unlink()
    crate = crate_of(crate_with(opened, ["GN"]), tmp_path)
    assert crate.archive.read(f"pieces/{key}") == b"as it was received" and verify(crate) == []
    second = open_register(str(tmp_path / "two.sqlite"))
    take(second, crate)
    assert second.store.get_as(key, SOURCE) == b"as it was received" and not second.store.has(key)
    with second.reading() as connection:
        assert revision_named(connection, "PI").source == ("pinion.stp", key)
    opened.store.put_as(key, SOURCE, b"something else", anew=True)
    with pytest.raises(InputError, match="damaged"):
        crate_with(opened, ["GN"])
    opened.close()
    second.close()


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(100 if IS_LONG else 6))
def test_killed_while_packing_the_crate_is_old_or_new(tmp_path, seed) -> None:
    a_register(tmp_path).close()
    out = tmp_path / "a.crate"
    code = (
        "import sys; sys.path.insert(0, sys.argv[1])\n"
        "from gondrel.core.service.crates import crate_command\n"
        "for n in range(10_000):\n"
        "    args = {'names': ('GN', 'GS') if n % 2 else ('GN',), 'out': sys.argv[3]}\n"
        "    crate_command('pack', sys.argv[2], '', args, '')\n"
    )
    command = [sys.executable, "-c", code, str(ROOT), str(tmp_path / "reg.sqlite"), str(out)]
    process = subprocess.Popen(command, stderr=subprocess.PIPE)
    deadline = time.monotonic() + 600  # beginning takes 4 s of a processor, of which there may be little
    while not out.exists():
        assert process.poll() is None, process.stderr.read()
        assert time.monotonic() < deadline
        time.sleep(0.01)
    time.sleep(random.Random(seed).uniform(0, 0.5))
    process.kill()
    process.communicate()
    crate = read_crate(str(out))
    assert verify(crate) == [] and crate.manifest["asked_for"] in (["GN"], ["GN", "GS"])


def rewritten(data: bytes, change) -> bytes:
    """A crate whose pieces were changed by a function of a dict of names and bytes."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        pieces = {name: archive.read(name) for name in archive.namelist()}
    change(pieces)
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, piece in pieces.items():
            archive.writestr(name, piece)
    return stream.getvalue()


def manifest_changed(change):
    def act(pieces):
        manifest = json.loads(pieces["manifest.json"])
        change(manifest)
        pieces["manifest.json"] = json.dumps(manifest).encode()

    return act


@pytest.mark.parametrize(("change", "kind", "word"), [
    (lambda p: p.update({"../evil": b"x"}), MalformedFile, "evil"),
    (lambda p: p.update({"pieces/../../evil": b"x"}), MalformedFile, "evil"),
    (lambda p: p.update({"/etc/evil": b"x"}), MalformedFile, "evil"),
    (lambda p: p.update({"pieces/zero": bytes(50_000_000)}), LimitExceeded, "zero"),
    (lambda p: p.pop("manifest.json"), MalformedFile, "list"),
    (lambda p: p.update({"manifest.json": b"{"}), MalformedFile, "list"),
    (lambda p: p.update({"manifest.json": b"[]"}), MalformedFile, "no crate"),
    (manifest_changed(lambda m: m.update(version=2)), InputError, "newer"),
    (manifest_changed(lambda m: m.update(version=True)), MalformedFile, "version"),
])  # fmt: skip
def test_what_is_no_crate_is_refused(packed, tmp_path, change, kind, word) -> None:
    with pytest.raises(kind, match=word):
        crate_of(rewritten(packed, change), tmp_path)


@pytest.mark.parametrize(("change", "word"), [
    (lambda p: p.pop(next(n for n in p if n.startswith("pieces/"))), "missing"),
    (lambda p: p.update({"pieces/more": b"x"}), "not listed"),
    (lambda p: p.update({next(n for n in p if n.startswith("pieces/")): b"other"}), "size"),
    (manifest_changed(lambda m: m["revisions"][0].update(label="Other")), ""),
    (manifest_changed(lambda m: m["revisions"][0]["product"].update(name="Other")), "changed"),
    (manifest_changed(lambda m: m["revisions"].reverse()), "before"),
    (manifest_changed(lambda m: m["revisions"][-1]["uses"].pop()), "changed"),
    (manifest_changed(lambda m: m["revisions"][0].update(state="finished")), "state"),
    (manifest_changed(lambda m: m["revisions"][0].update(minor=0)), "name"),
    (manifest_changed(lambda m: m["revisions"].append(m["revisions"][0])), "one identity"),
])  # fmt: skip
def test_what_was_changed_is_found_and_nothing_is_taken_in(packed, tmp_path, change, word) -> None:
    crate = crate_of(rewritten(packed, change), tmp_path)
    problems = verify(crate)
    opened = open_register(str(tmp_path / "reg.sqlite"))
    if not word:  # a label beside the product is for people only
        assert not problems
    else:
        assert any(word in p.what for p in problems)
        with pytest.raises(MalformedFile, match="nothing was taken in"):
            take(opened, crate, ANNA)
        assert told(opened) == []
    opened.close()


@pytest.mark.slow
def test_five_hundred_damaged_crates(packed, tmp_path) -> None:
    opened = open_register(str(tmp_path / "reg.sqlite"))
    outside = sorted(p.name for p in tmp_path.iterdir())
    refused = 0
    for seed in range(500):
        chance = random.Random(seed)
        data = bytearray(packed)
        for _ in range(chance.randint(1, 6)):
            at, kind = chance.randrange(len(data)), chance.randrange(4)
            if kind == 0:
                data[at] ^= 1 << chance.randrange(8)
            elif kind == 1:
                del data[at : at + chance.randint(1, 200)]
            elif kind == 2:
                data[at:at] = chance.randbytes(chance.randint(1, 50))
            else:
                del data[at:]
            if not data:
                data = bytearray(b"PK")
        path = tmp_path / "damaged.crate"
        path.write_bytes(data)
        try:
            crate = read_crate(str(path))
            take(opened, crate, ANNA)
        except GondrelError as error:
            refused += 1
            assert error.message
        else:  # what was hit says nothing: the crate is as it was
            with opened.reading() as connection:
                assert verify(crate) == [] and listed(connection, Reach())
            opened.close()
            for left in tmp_path.glob("reg.sqlite*"):
                left.unlink() if left.is_file() else None
            opened = open_register(str(tmp_path / "reg.sqlite"))
            continue
        assert told(opened) == []
    opened.close()
    assert refused > 400
    now = {p.name for p in tmp_path.iterdir()} - {"damaged.crate", "state"}
    assert {n.partition("-")[0] for n in now} <= {n.partition("-")[0] for n in outside} | {"reg.sqlite"}


def test_a_full_disk_is_told_and_the_old_crate_stays(tmp_path, monkeypatch) -> None:
    opened = a_register(tmp_path)
    opened.close()
    out = tmp_path / "out.crate"
    out.write_bytes(b"the old file")

    def full(*args, **how):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("gondrel.core.service.crates.pack", full)
    args = {"names": ["GN"], "out": str(out), "pictures": False}
    with pytest.raises(WriteFailed, match="No space left"):
        crate_command("pack", str(tmp_path / "reg.sqlite"), "", args, str(tmp_path / "store"))
    assert out.read_bytes() == b"the old file"
    assert [p.name for p in tmp_path.iterdir() if p.name.startswith(".gondrel")] == []
