"""The crossing: the working document, its file, autosave and recovery.

A crossing file is a zip: crossing.json (version, name, history, what was sent) and one member
per body under blobs/. It appears whole or not at all.
"""

from __future__ import annotations

import io
import json
import zipfile
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from gondrel.core.errors import MalformedFile, UnsupportedContent, WriteFailed
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.findings import Mended
from gondrel.core.model.history import History
from gondrel.core.model.provenance import Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore, write_whole
from gondrel.core.service.messages import Sent

__all__ = ["SUFFIX", "VERSION", "Crossing", "Source", "autosaves", "load_crossing", "save_crossing"]

SUFFIX = ".crossing"
VERSION = 1
_FORMAT = "gondrel-crossing"


RowPath = tuple[tuple[str, ...], ...]


@dataclass(frozen=True, slots=True)
class Source:
    """A tether: where a model was received from, and what it was then.

    Args:
        model: as received, with the ids its items have in the crossing; is_cut: no longer followed.
    """

    provenance: Provenance
    model: Model
    is_cut: bool = False

    @property
    def path(self) -> str:
        """The file it was received from."""
        return self.provenance.file.path


@dataclass(frozen=True, slots=True)
class Crossing:
    """The working document.

    Args:
        history: snapshots of the received model with all edits.
        sent: what was sent and proved last, None before the first send.
        hidden, faint: rows of the manifest hidden or seen through on screen, each as the occurrence
            ids it stands for level by level.
        sources: what it was received from.
    """

    name: str
    history: History = History()
    sent: Sent | None = None
    hidden: tuple[RowPath, ...] = ()
    faint: tuple[RowPath, ...] = ()
    sources: tuple[Source, ...] = ()

    @property
    def model(self) -> Model | None:
        """The current model, None before anything was received."""
        return self.history.current.model if self.history.steps else None

    def edited(self, what: str, model: Model, mended: tuple[Mended, ...] = ()) -> Crossing:
        """The crossing after an edit of the model, with what came of its mends."""
        return replace(self, history=self.history.did(what, model, mended))

    def blobs(self) -> tuple[str, ...]:
        """Hashes of every body of every snapshot and of the returned model."""
        models = [step.model for step in self.history.steps]
        models += [source.model for source in self.sources]
        if self.sent is not None:
            models.append(self.sent.returned)
        return tuple(dict.fromkeys(key for model in models for key in model.blobs()))


def save_crossing(crossing: Crossing, path: Path, store: BlobStore) -> None:
    """Write a crossing to its file, whole or not at all.

    Raises:
        WriteFailed: when the disk refuses or a body is not in the store.
    """
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        head = {"format": _FORMAT, "version": VERSION, "crossing": to_plain(crossing)}
        archive.writestr("crossing.json", json.dumps(head))
        for key in crossing.blobs():
            try:
                archive.writestr(f"blobs/{key}", store.get(key))
            except KeyError:
                raise WriteFailed("a body is missing from the store", file=str(path)) from None
    write_whole(path, stream.getvalue())


def load_crossing(path: Path, store: BlobStore) -> Crossing:
    """Read a crossing file, its bodies into the store.

    Raises:
        MalformedFile: when it is not a crossing or broken. UnsupportedContent: when it is newer.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            head: dict[str, Any] = json.loads(archive.read("crossing.json"))
            if head.get("format") != _FORMAT:
                raise MalformedFile("not a crossing file", file=str(path))
            if head["version"] > VERSION:
                text = f"made by a newer Gondrel (file version {head['version']}, ours {VERSION})"
                raise UnsupportedContent(text, file=str(path))
            crossing = from_plain(head["crossing"], Crossing)
            for key in crossing.blobs():
                data = archive.read(f"blobs/{key}")
                if store.put(data) != key:
                    raise MalformedFile("a body is damaged", file=str(path), where=key[:12])
    except MalformedFile:
        raise
    except (OSError, zipfile.BadZipFile, KeyError, ValueError, TypeError) as error:
        raise MalformedFile(f"not a whole crossing file: {error}", file=str(path)) from error
    except ExceptionGroup as error:
        reason = "its content has another shape than expected"
        raise MalformedFile(f"not a whole crossing file: {reason}", file=str(path)) from error
    return crossing


def autosaves(folder: Path) -> list[Path]:
    """Autosaved crossings that no running application keeps, newest first."""
    if not folder.is_dir():
        return []
    found = [p for p in folder.glob(f"*{SUFFIX}") if not _is_kept(p)]
    return sorted(found, key=lambda p: p.stat().st_mtime, reverse=True)


def _is_kept(path: Path) -> bool:
    """Whether the application that wrote an autosave still runs; its process id is in the name."""
    owner = path.stem.rpartition("-")[2]
    return owner.isdigit() and Path(f"/proc/{owner}").exists()
