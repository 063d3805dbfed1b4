"""Sources that were read before: their models, bodies, meshes and measures kept beside the user's caches.

An entry is a folder: model.json, and files of the store by their names. It is known by the place, size and
time of the file, how it was received, and by who wrote the entry. One that is not whole counts as none.
"""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import time
from contextlib import suppress
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from gondrel import __version__
from gondrel.core.errors import GondrelError
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.origins import source_key
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.intake import receive_by
from gondrel.core.service.saved.schema import VERSION
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import cache_folder, private_folder

__all__ = ["LIMIT_MB", "keep_read", "read_before", "receive_again"]

LIMIT_MB = 4_000
"""How much the cache may take, MB; what was used longest ago goes first."""

_MODEL, _SOURCES = "model.json", "sources.json"
_FORM = 1


def _entry(path: str, options: ReceiveOptions) -> Path:
    """The folder of a file received in some way. Raises OSError when it is not there."""
    said = "\0".join((source_key(path), repr(options), __version__, str(VERSION), str(_FORM)))
    return cache_folder() / "sources" / hashlib.sha256(said.encode("utf-8", "surrogateescape")).hexdigest()


def receive_again(
    path: str, store_folder: str, options: ReceiveOptions, *, progress: Progress = SILENT
) -> Model:
    """A file as it was read before, or read now. Raises as receive_by.

    Each body's hash is handed out as ("body", hash) as soon as it is in the store.
    """
    model = read_before(path, store_folder, options, progress=progress)
    return model if model is not None else receive_by(path, store_folder, options, progress=progress)


def read_before(
    path: str, store_folder: str, options: ReceiveOptions, *, progress: Progress = SILENT
) -> Model | None:
    """The model of a file that was read before and is the same, with all that was derived from its bodies
    put into the store; None where there is none."""
    try:
        entry = _entry(path, options)
        if options.into or not (entry / _MODEL).is_file():
            return None
        sources = json.loads((entry / _SOURCES).read_text("utf-8"))
        if any(source_key(other) != key for other, key in sources):
            return None
        model = from_plain(json.loads((entry / _MODEL).read_bytes()), Model)
        store = BlobStore(Path(store_folder)).folder
        present = {file.name for file in entry.iterdir()}
        if any(f"{key}.brep" not in present for key in model.blobs()):
            return None
        for name in present - {_MODEL, _SOURCES}:
            _put(entry / name, store / name)
        os.utime(entry)
    except (OSError, ValueError, TypeError, KeyError, AttributeError, ExceptionGroup, GondrelError):
        return None
    for key in progress.each(list(model.blobs()), "Taking bodies that were read before"):
        progress.give(("body", key))
    if model.provenance is None:
        return model
    now = datetime.now(UTC).isoformat(timespec="seconds")
    return replace(model, provenance=replace(model.provenance, received=now))


def keep_read(
    model: Model, path: str, store_folder: str, options: ReceiveOptions, *, progress: Progress = SILENT
) -> bool:
    """Keep a model as it was received, with its bodies and all that was derived from them.

    Args:
        model: as received, before any edit.

    Returns: whether it was kept.
    """
    store = BlobStore(Path(store_folder))
    if options.into or model.provenance is None:
        return False
    try:
        entry = _entry(path, options)
        if entry.exists():
            return True
        others = [other for other, _ in model.provenance.files]
        sources = [(other, source_key(other)) for other in others]
        entry.parent.mkdir(parents=True, exist_ok=True)
        with private_folder(entry.parent) as folder:
            made = folder / "entry"
            made.mkdir()
            keys = {*model.blobs(), source_key(path)}
            for file in progress.each(sorted(store.folder.iterdir()), "Keeping what was read"):
                if file.name.partition(".")[0] in keys:
                    _put(file, made / file.name)
            (made / _SOURCES).write_text(json.dumps(sources), "utf-8")
            (made / _MODEL).write_text(json.dumps(to_plain(model)), "utf-8")
            os.replace(made, entry)
    except (OSError, GondrelError):
        return False  # a cache that can't be written to is no harm
    _make_room(entry.parent)
    return True


def _put(source: Path, target: Path) -> None:
    """A file at another place too: the same where the disk is, else a copy."""
    if target.exists():
        return
    try:
        os.link(source, target)
    except OSError:
        temporary = target.with_name(f".{target.name}.{os.getpid()}")
        shutil.copyfile(source, temporary)
        os.replace(temporary, target)


def _make_room(folder: Path, limit: int = LIMIT_MB) -> None:
    """Drop entries until the rest is small enough, those used longest ago first."""
    entries = []
    for entry in folder.iterdir():
        with suppress(OSError):
            size = sum(file.stat().st_size for file in entry.iterdir())
            entries.append((entry.stat().st_mtime, size, entry))
    total = sum(size for _, size, _ in entries)
    for used, size, entry in sorted(entries):
        if total <= limit * 1_000_000 or time.time() - used < 1.0:
            break
        shutil.rmtree(entry, ignore_errors=True)
        total -= size
