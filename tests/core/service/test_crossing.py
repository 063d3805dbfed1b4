from __future__ import annotations

import json
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest

from gondrel.core.errors import MalformedFile, UnsupportedContent, WriteFailed
from gondrel.core.model import History
from gondrel.core.model.store import BlobStore
from gondrel.core.service.crossing import Crossing, autosaves, save_crossing
from gondrel.core.service.opening import load_crossing
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.builders import small_assembly

pytestmark = pytest.mark.slow


@pytest.fixture
def crossing(tmp_path: Path, store_folder: str) -> Crossing:
    model = small_assembly(BlobStore(Path(store_folder)))
    sent = send(model, str(tmp_path / "x.stp"), "step-ap203", settings_from({}), store_folder)
    history = History.begin(model, "Receive").did("Rename", replace(model, notes=()))
    return Crossing("gear", history, sent)


def test_a_crossing_comes_back_whole(crossing: Crossing, tmp_path: Path, store_folder: str) -> None:
    path = tmp_path / "gear.crossing"
    save_crossing(crossing, path, BlobStore(Path(store_folder)))
    elsewhere = BlobStore(tmp_path / "elsewhere")
    assert load_crossing(path, elsewhere) == crossing
    assert all(elsewhere.has(key) for key in crossing.blobs())


def test_broken_crossings_are_refused(crossing: Crossing, tmp_path: Path, store_folder: str) -> None:
    store = BlobStore(Path(store_folder))
    path = tmp_path / "gear.crossing"
    save_crossing(crossing, path, store)
    whole = path.read_bytes()
    path.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(MalformedFile, match="not a whole crossing file"):
        load_crossing(path, store)
    path.write_bytes(b"")
    with pytest.raises(MalformedFile):
        load_crossing(path, store)
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("crossing.json", json.dumps({"format": "gondrel-crossing", "version": 99}))
    with pytest.raises(UnsupportedContent, match="newer"):
        load_crossing(path, store)


def test_a_failed_save_leaves_the_old_file(crossing: Crossing, tmp_path: Path, store_folder: str) -> None:
    store = BlobStore(Path(store_folder))
    path = tmp_path / "gear.crossing"
    save_crossing(crossing, path, store)
    before = path.read_bytes()
    with pytest.raises(WriteFailed, match="missing"):
        save_crossing(crossing, path, BlobStore(tmp_path / "without-bodies"))
    assert path.read_bytes() == before
    with pytest.raises(WriteFailed):
        save_crossing(crossing, tmp_path / "no" / "such.crossing", store)


def test_only_autosaves_of_dead_processes_are_offered(tmp_path: Path) -> None:
    import os

    (tmp_path / f"mine-{os.getpid()}.crossing").touch()
    (tmp_path / "theirs-999999999.crossing").touch()
    assert [p.name for p in autosaves(tmp_path)] == ["theirs-999999999.crossing"]
