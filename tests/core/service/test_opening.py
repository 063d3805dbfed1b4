# ruff: noqa: E501
"""Damage to a crossing file: one clear error, and nothing is taken from it."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from gondrel.core.errors import InputError, LimitExceeded, MalformedFile
from gondrel.core.model import History
from gondrel.core.model.store import BlobStore
from gondrel.core.service.crossing import Crossing, save_crossing
from gondrel.core.service.opening import load_crossing
from tests.builders import rich_assembly

Members = dict[str, bytes]
Damage = Callable[[Members], None]


@pytest.fixture(scope="module")
def sound(tmp_path_factory) -> Members:
    """The members of a crossing file."""
    return made_members(tmp_path_factory.mktemp("crossing"))


def made_members(folder: Path) -> Members:
    """The members of a crossing file that is made in a folder."""
    store = BlobStore(folder / "store")
    model = rich_assembly(store)
    history = History.begin(model, "Receive").did("Rename", replace(model, notes=()))
    save_crossing(Crossing("gear", history), folder / "a.crossing", store)
    with zipfile.ZipFile(folder / "a.crossing") as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def put(path: Path, members: Members) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in members.items():
            archive.writestr(name, data)


def head(change: Callable[[dict[str, Any]], None]) -> Damage:
    """Change what the crossing says."""

    def damage(members: Members) -> None:
        said = json.loads(members["crossing.json"])
        change(said)
        members["crossing.json"] = json.dumps(said).encode()

    return damage


def model(change: Callable[[dict[str, Any]], None]) -> Damage:
    """Change the first snapshot."""
    return head(lambda said: change(said["crossing"]["history"]["steps"][0]["model"]))


def product(number: int, **values: Any) -> Damage:
    return model(lambda m: m["products"][number].update(values))


def use(**values: Any) -> Damage:
    """Change the first component of the first product."""
    return model(lambda m: m["products"][0]["occurrences"][0].update(values))


def blob(data: bytes) -> Damage:
    def damage(members: Members) -> None:
        name = next(n for n in members if n.startswith("blobs/"))
        members[name] = data

    return damage


def junk(members: Members) -> None:
    """A body whose hash is right and whose bytes are none."""
    import hashlib

    data = b"this is no body"
    name = next(n for n in members if n.startswith("blobs/"))
    old, new = name.removeprefix("blobs/"), hashlib.sha256(data).hexdigest()
    del members[name]
    members[f"blobs/{new}"] = data
    members["crossing.json"] = members["crossing.json"].replace(old.encode(), new.encode())


def lost(members: Members) -> None:
    del members[next(n for n in members if n.startswith("blobs/"))]


def deep(members: Members) -> None:
    members["crossing.json"] = b"[" * 200_000


def multiplying(m: dict[str, Any]) -> None:
    """Four uses on each of 40 levels."""
    pattern, place = m["products"][1], m["products"][0]["occurrences"][0]
    for level in range(40):
        below = [
            {**place, "id": f"x{level}.{n}", "product": f"level{level + 1}"}
            for n in range(4 if level < 39 else 0)
        ]
        m["products"].append({**pattern, "id": f"level{level}", "bodies": [], "occurrences": below})
    m["products"][0]["occurrences"].append({**place, "id": "many", "product": "level0"})


DAMAGES: tuple[tuple[str, Damage, str], ...] = (
    ("not JSON", lambda m: m.update({"crossing.json": b"{"}), "not a whole crossing"),
    ("nothing", lambda m: m.update({"crossing.json": b""}), "not a whole crossing"),
    ("no text", lambda m: m.update({"crossing.json": b"\xff\xfe\x00"}), "not a whole crossing"),
    ("a list", lambda m: m.update({"crossing.json": b"[]"}), "not a crossing"),
    ("a number", lambda m: m.update({"crossing.json": b"7"}), "not a crossing"),
    ("deep", deep, "nested too deep"),
    ("no head", lambda m: m.pop("crossing.json"), "not a whole crossing"),
    ("another format", head(lambda s: s.update(format="other")), "not a crossing"),
    ("no version", head(lambda s: s.pop("version")), "version"),
    ("version of text", head(lambda s: s.update(version="one")), "version"),
    ("version nought", head(lambda s: s.update(version=0)), "version"),
    ("no content", head(lambda s: s.pop("crossing")), "not a whole crossing"),
    ("content of another shape", head(lambda s: s.update(crossing=[1, 2])), "not a whole crossing"),
    ("steps of another shape", head(lambda s: s["crossing"]["history"].update(steps=5)), "not a whole crossing"),
    ("step out of range", head(lambda s: s["crossing"]["history"].update(at=7)), "current one"),
    ("step below range", head(lambda s: s["crossing"]["history"].update(at=-2)), "current one"),
    ("root is not there", model(lambda m: m.update(roots=["none"])), "root"),
    ("product is not there", use(product="none"), "not there"),
    ("product in itself", use(product="top"), "contains itself"),
    ("products in a ring", product(1, occurrences=[{"id": "ring", "product": "top", "name": ""}]), "contains itself"),
    ("multiplying", model(multiplying), "components in all"),
    ("place of three numbers", use(placement=[1, 2, 3]), "no place"),
    ("place that is not finite", use(placement=[float("nan")] * 16), "no place"),
    ("place of texts", use(placement=["a"] * 16), "not a whole crossing"),
    ("two of one identity", product(1, id="pin"), "not there"),
    ("kind of body nobody knows", model(lambda m: m["products"][1]["bodies"][0].update(kind="jelly")), "not a whole"),
    ("body is missing", lost, "not a whole crossing"),
    ("body is damaged", blob(b"other"), "damaged"),
    ("body is empty", blob(b""), "damaged"),
    ("body is junk", junk, "can't be opened"),
    ("member nobody knows", lambda m: m.update({"evil.py": b"x"}), "what no crossing holds"),
    ("member that climbs out", lambda m: m.update({"../../evil": b"x"}), "what no crossing holds"),
)  # fmt: skip


@pytest.mark.parametrize(("name", "damage", "said"), DAMAGES, ids=[d[0] for d in DAMAGES])
def test_damage_is_one_clear_error_and_nothing_is_taken(name, damage, said, sound, tmp_path) -> None:
    members = dict(sound)
    damage(members)
    path = tmp_path / "damaged.crossing"
    put(path, members)
    store = BlobStore(tmp_path / "store")
    with pytest.raises(InputError, match=said) as caught:
        load_crossing(path, store)
    assert isinstance(caught.value, MalformedFile | LimitExceeded)
    assert caught.value.file == str(path)
    assert not list((tmp_path / "store").iterdir())


@pytest.mark.parametrize("share", [0.1, 0.5, 0.9, 0.999])
def test_a_crossing_cut_off_or_overwritten(share, sound, tmp_path) -> None:
    path = tmp_path / "damaged.crossing"
    put(path, sound)
    whole = bytearray(path.read_bytes())
    path.write_bytes(whole[: int(len(whole) * share)])
    with pytest.raises(MalformedFile):
        load_crossing(path, BlobStore(tmp_path / "store"))
    at = int((len(whole) - 40) * share)
    whole[at : at + 30] = b"\xff" * 30
    path.write_bytes(whole)
    with pytest.raises(InputError):
        load_crossing(path, BlobStore(tmp_path / "store"))


def test_an_encrypted_crossing_and_one_with_a_bomb(sound, tmp_path) -> None:
    path = tmp_path / "damaged.crossing"
    put(path, sound)
    data = bytearray(path.read_bytes())
    at = data.index(b"PK\x01\x02")
    data[at + 8] |= 1
    path.write_bytes(data)
    with pytest.raises(MalformedFile, match="encrypted"):
        load_crossing(path, BlobStore(tmp_path / "store"))
    put(path, {"crossing.json": b" " * 250_000_000})
    with pytest.raises(LimitExceeded, match="swell"):
        load_crossing(path, BlobStore(tmp_path / "store"))
