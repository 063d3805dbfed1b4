"""Sources that were read before: the same model with all derived, and nothing where anything differs."""

from __future__ import annotations

import json
import shutil
from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.model.origins import origins_of
from gondrel.core.model.store import BlobStore
from gondrel.core.service.cache import _make_room, keep_read, read_before, receive_again
from gondrel.core.service.receive import measure_all, mesh_bodies
from gondrel.core.service.settings import receive_options_from
from gondrel.core.work.files import cache_folder

pytestmark = pytest.mark.slow

PLAIN = receive_options_from({})


@pytest.fixture
def kept(as1: str, tmp_path: Path):
    path, store = str(tmp_path / "as1.stp"), str(tmp_path / "first")
    shutil.copyfile(as1, path)
    model = receive_again(path, store, PLAIN)
    facts = measure_all(model.blobs(), store)
    mesh_bodies(model.blobs(), store)
    assert keep_read(model, path, store, PLAIN)
    return path, model, facts


def again(path: str, folder: Path, options=PLAIN):
    return read_before(path, str(folder), options)


def test_it_comes_back_whole_with_all_that_was_derived(kept, tmp_path: Path) -> None:
    path, model, facts = kept
    back = again(path, tmp_path / "second")
    assert back is not None
    assert replace(back, provenance=None) == replace(model, provenance=None)
    store = BlobStore(tmp_path / "second")
    for key in model.blobs():
        assert store.get(key) and store.has(key, "mesh") and store.has(key, "measures")
    assert measure_all(model.blobs(), str(tmp_path / "second")) == facts
    assert origins_of(store, path) is not None, "the records behind it are known, too"
    handed: list[str] = []

    class Heard:
        def each(self, items, text):
            yield from items

        def give(self, partial):
            handed.append(partial[1])

    read_before(path, str(tmp_path / "third"), PLAIN, progress=Heard())
    assert handed == list(model.blobs())


def test_another_file_or_other_choices_are_read_anew(kept, tmp_path: Path) -> None:
    path, _, _ = kept
    assert again(path, tmp_path / "other", receive_options_from({"unit": "inch"})) is None
    Path(path).write_bytes(Path(path).read_bytes() + b"\n")
    assert again(path, tmp_path / "changed") is None
    assert again(str(tmp_path / "nowhere.stp"), tmp_path / "none") is None


@pytest.mark.parametrize("damage", ["gone", "cut", "senseless", "body"])
def test_a_damaged_entry_counts_as_none(kept, tmp_path: Path, damage: str) -> None:
    path, _, _ = kept
    (entry,) = (cache_folder() / "sources").iterdir()
    model = entry / "model.json"
    if damage == "gone":
        model.unlink()
    elif damage == "cut":
        model.write_bytes(model.read_bytes()[:1000])
    elif damage == "senseless":
        model.write_text(json.dumps({"products": 3}), "utf-8")
    else:
        next(entry.glob("*.brep")).unlink()
    assert again(path, tmp_path / "damaged") is None
    assert receive_again(path, str(tmp_path / "read"), PLAIN).products


def test_what_was_used_longest_ago_goes_first(tmp_path: Path) -> None:
    import os

    folder = tmp_path / "sources"
    for age, name in enumerate(("new", "middle", "old")):
        (folder / name).mkdir(parents=True)
        (folder / name / "x").write_bytes(b"x" * 600_000)
        os.utime(folder / name, (1e9 - age, 1e9 - age))
    _make_room(folder, limit=1)
    assert sorted(p.name for p in folder.iterdir()) == ["new"]
