"""Opening a crossing file: everything in it is looked at before anything is taken from it."""

from __future__ import annotations

import hashlib
import json
import math
import re
import zipfile
import zlib
from pathlib import Path
from typing import Any

from gondrel.core.errors import GondrelError, LimitExceeded, MalformedFile, UnsupportedContent
from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.model.body import BodyKind
from gondrel.core.model.codec import from_plain
from gondrel.core.model.facets import Facets
from gondrel.core.model.store import BlobStore
from gondrel.core.service.crossing import BLOBS, FORMAT, HEAD, Crossing, models_of
from gondrel.core.service.saved.schema import VERSION
from gondrel.core.service.saved.upgrade import upgraded
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.archives import check_size
from gondrel.core.work.files import checked_file

__all__ = ["load_crossing", "open_crossing"]

_BLOB = re.compile(r"blobs/[0-9a-f]{64}")


def open_crossing(path: str, store_folder: str, *, progress: Progress = SILENT) -> Crossing:
    """Read a crossing file in a worker, its bodies into the store, once all of it is known to be sound.

    Raises:
        MalformedFile: when it is not a crossing or broken. UnsupportedContent: when it is newer.
        LimitExceeded: when it is larger than any crossing.
    """
    return load_crossing(Path(path), BlobStore(Path(store_folder)), progress=progress)


def load_crossing(path: Path, store: BlobStore, *, progress: Progress = SILENT) -> Crossing:
    """Read a crossing file: its shape, its structure, the hash of every body, and that bodies open; only
    then are they put into the store. Raises as open_crossing."""
    checked_file(path)
    try:
        with zipfile.ZipFile(path) as archive:
            check_size(archive, str(path))
            _check_members(archive, path)
            crossing = _read(archive, path)
            bodies = {}
            for key in progress.each(list(crossing.blobs()), "Looking at bodies"):
                bodies[key] = data = archive.read(BLOBS + key)
                if hashlib.sha256(data).hexdigest() != key:
                    raise MalformedFile("a body is damaged", file=str(path), where=key[:12])
    except (MalformedFile, UnsupportedContent, LimitExceeded) as error:
        error.file = error.file or str(path)
        raise
    except KeyError as error:
        raise MalformedFile(f"not a whole crossing file: {error.args[0]}", file=str(path)) from error
    except RecursionError as error:
        raise MalformedFile("its content is nested too deep", file=str(path)) from error
    except _BROKEN as error:
        raise MalformedFile(f"not a whole crossing file: {error}", file=str(path)) from error
    kinds = {body.blob: body.kind for model in models_of(crossing) for _, body in model.bodies()}
    for key, data in progress.each(list(bodies.items()), "Opening bodies"):
        if not _opens(data, kinds[key]):
            raise MalformedFile("a body can't be opened", file=str(path), where=key[:12])
    for data in bodies.values():
        store.put(data)
    return crossing


_BROKEN = (
    OSError, zipfile.BadZipFile, zlib.error, ValueError, TypeError, AttributeError, EOFError, RuntimeError,
    OverflowError, IndexError, MemoryError, ExceptionGroup,
)  # fmt: skip
"""What damage to an archive or its content raises."""


def _check_members(archive: zipfile.ZipFile, path: Path) -> None:
    for member in archive.infolist():
        if member.flag_bits & 1:
            raise MalformedFile("it is encrypted", file=str(path), where=member.filename[:40])
        if member.filename != HEAD and not _BLOB.fullmatch(member.filename):
            raise MalformedFile(
                "it holds what no crossing holds", file=str(path), where=member.filename[:40]
            )


def _read(archive: zipfile.ZipFile, path: Path) -> Crossing:
    """The crossing of an archive, its shape and structure sound. Raises as load_crossing and _BROKEN."""
    head: dict[str, Any] = json.loads(archive.read(HEAD))
    if not isinstance(head, dict) or head.get("format") != FORMAT:
        raise MalformedFile("not a crossing file", file=str(path))
    version = head.get("version")
    if not isinstance(version, int) or version < 1:
        raise MalformedFile("it does not say its version", file=str(path))
    if version > VERSION:
        text = f"made by a newer Gondrel (file version {version}, ours {VERSION})"
        raise UnsupportedContent(text, file=str(path))
    plain = upgraded(head["crossing"], version)
    try:
        crossing = from_plain(plain, Crossing)
    except ExceptionGroup as error:
        reason = "its content has another shape than expected"
        raise MalformedFile(f"not a whole crossing file: {reason}", file=str(path)) from error
    for model in models_of(crossing):
        model.check_structure()
        for parent, use in model.occurrences():
            if len(use.placement) != 16 or not all(map(math.isfinite, use.placement)):
                raise MalformedFile("a component has no place that makes sense", where=parent.label)
        ids = [p.id for p in model.products] + [b.id for _, b in model.bodies()]
        if len(ids) != len(set(ids)):
            raise MalformedFile("two items have the same identity", file=str(path))
    for view in crossing.views:
        if not view.is_sound:
            raise MalformedFile("a view makes no sense", file=str(path), where=view.name[:40])
    if crossing.history.steps and not 0 <= crossing.history.at < len(crossing.history.steps):
        raise MalformedFile("it does not say which step is the current one", file=str(path))
    return crossing


def _opens(data: bytes, kind: BodyKind) -> bool:
    """Whether a body's bytes are one."""
    try:
        if kind is BodyKind.MESH:
            Facets.from_bytes(data)
        else:
            shape_from_blob(data)
    except (GondrelError, ValueError, TypeError, KeyError, IndexError, EOFError, OSError):
        return False
    return True
