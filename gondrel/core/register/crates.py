"""Crates: one file with items, all they use, their revisions, states and histories.

The form is told in docs/register.md: a ZIP archive with manifest.json first, and beside it pieces named by
the SHA-256 of what they hold.
"""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Connection

from gondrel.core.errors import InputError, LimitExceeded, MalformedFile
from gondrel.core.model.store import BlobStore
from gondrel.core.register.gathering import Gathered, events_of_items, gathered
from gondrel.core.register.looking import revision_named

__all__ = ["FORMAT", "VERSION", "Crate", "Problem", "pack", "read_crate", "verify"]

FORMAT, VERSION = "gondrel-crate", 1
_MANIFEST, _PIECES, _PICTURES = "manifest.json", "pieces/", "pictures/"
_MOST_BYTES = 64 << 30
_MOST_PIECES = 1_000_000
_MOST_MANIFEST = 1 << 30
_RATIO, _LARGE = 400, 1 << 20
"""A piece larger than a megabyte that swells more than this is no body."""
_DAMAGE = (
    zipfile.BadZipFile, zlib.error, OSError, EOFError, ValueError, NotImplementedError, RuntimeError
)  # fmt: skip
_HASH = 64
_SMALL = zipfile.ZIP_DEFLATED
"""The list is packed small; pieces are stored as they are: packing takes hardly more than copying."""

Json = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Problem:
    """Something that is not right in a crate: which piece, and what."""

    piece: str
    what: str


@dataclass(frozen=True)
class Crate:
    """An opened crate.

    Args:
        manifest: what it says it holds; data: the archive.
    """

    manifest: Json
    archive: zipfile.ZipFile

    @property
    def revisions(self) -> list[Json]:
        """What it says of its revisions."""
        return list(self.manifest["revisions"])

    def piece(self, key: str) -> bytes:
        """A piece by its hash. Raises MalformedFile where it is not what its name says."""
        try:
            data = self.archive.read(_PIECES + key)
        except (KeyError, *_DAMAGE) as error:
            raise MalformedFile(f"piece {key[:12]} can't be read: {_said(error)}") from None
        if hashlib.sha256(data).hexdigest() != key:
            raise MalformedFile(f"piece {key[:12]} was changed")
        return data


def _said(error: BaseException) -> str:
    return " ".join(str(error).split())[:120] or type(error).__name__


# --- packing -----------------------------------------------------------------------------------------


def pack(
    connection: Connection, blobs: BlobStore, names: Sequence[str], *, all_revisions: bool = True,
    pictures: Mapping[str, bytes] | None = None, sources: Mapping[str, bytes] | None = None,
) -> bytes:  # fmt: skip
    """A crate with items and everything they use.

    Args:
        names: of items or revisions; all_revisions: whether every revision of each item goes along, or only
            those that are named and what these use.
        pictures: PNG by the id of a revision; sources: received files by their SHA-256.

    Raises:
        UsageError: for a name that is none. InputError: when a body is missing from the register.
    """
    asked = [revision_named(connection, name).id for name in names]
    rows = [_row(each) for each in gathered(connection, asked, all_revisions=all_revisions)]
    keys = [row["id"] for row in rows]
    bodies = sorted({blob for row in rows for blob in row["bodies"]})
    pieces: dict[str, bytes] = {}
    for key in bodies:
        try:
            pieces[key] = blobs.get(key)
        except KeyError:
            raise InputError(f"body {key[:12]} is missing from the register's folder") from None
    wanted = {row["source"]["sha256"] for row in rows}
    for key, data in (sources or {}).items():
        if key in wanted:
            pieces[key] = data
    numbers = sorted({row["number"] for row in rows})
    there = set(keys)
    manifest = {
        "format": FORMAT,
        "version": VERSION,
        "items": numbers,
        "asked_for": list(names),
        "revisions": rows,
        "events": list(events_of_items(connection, numbers)),
        "pieces": {key: {"sha256": key, "bytes": len(data)} for key, data in pieces.items()},
        "pictures": {
            key: {"sha256": hashlib.sha256(data).hexdigest(), "bytes": len(data)}
            for key, data in (pictures or {}).items()
            if key in there
        },
    }
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        archive.writestr(_fixed(_MANIFEST), json.dumps(manifest, indent=1, sort_keys=True), _SMALL)
        for key, data in sorted(pieces.items()):
            archive.writestr(_fixed(_PIECES + key), data)
        for key in sorted(manifest["pictures"]):  # type: ignore[call-overload]
            archive.writestr(_fixed(f"{_PICTURES}{key}.png"), (pictures or {})[key])
    return stream.getvalue()


def _fixed(name: str) -> zipfile.ZipInfo:
    """An entry without the time it was written, so that one crate is made of one register."""
    entry = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))
    entry.external_attr = 0o644 << 16
    return entry


def _row(gathered: Gathered) -> Json:
    row = gathered.row
    return {
        "id": row.id, "item": row.item, "number": row.number, "major": row.major, "minor": row.minor,
        "state": row.state, "label": row.label, "description": row.description, "content": row.content,
        "product": json.loads(row.product), "bodies": json.loads(row.bodies),
        "uses": [{"revision": child, "occurrence": use} for child, use in gathered.uses],
        "made": {"at": row.made_at, "by": row.made_by},
        "source": {"name": row.source, "sha256": row.source_sha256}, "remarks": row.remarks,
        "lineage": row.lineage, "item_lineage": row.item_lineage,
    }  # fmt: skip


# --- reading -----------------------------------------------------------------------------------------


def read_crate(path: str) -> Crate:
    """Open a crate; nothing of it is written anywhere.

    Raises:
        MalformedFile: when it is no crate, or its list is damaged. LimitExceeded: when it claims more than
            a crate may hold. InputError: when it can't be opened, or is of a newer version.
    """
    try:
        archive = zipfile.ZipFile(path)
        listed = archive.infolist()
    except _DAMAGE as error:
        raise MalformedFile(f"is no crate: {_said(error)}", file=path) from None
    if len(listed) > _MOST_PIECES or sum(entry.file_size for entry in listed) > _MOST_BYTES:
        raise LimitExceeded("the crate claims to hold more than a crate may", file=path)
    for entry in listed:
        _checked_entry(entry, path)
    names = [entry.filename for entry in listed]
    if len(set(names)) != len(names):
        raise MalformedFile("the crate holds two pieces of one name", file=path)
    if _MANIFEST not in names or archive.getinfo(_MANIFEST).file_size > _MOST_MANIFEST:
        raise MalformedFile("the crate has no list of what it holds", file=path)
    try:
        manifest = json.loads(archive.read(_MANIFEST))
    except (RecursionError, *_DAMAGE) as error:
        raise MalformedFile(f"the crate's list can't be read: {_said(error)}", file=path) from None
    if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
        raise MalformedFile("is no crate", file=path)
    version = manifest.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise MalformedFile("the crate says no version", file=path)
    if version > VERSION:
        raise InputError(f"the crate is of a newer version ({version}) than this program reads", file=path)
    return Crate(manifest, archive)


def _checked_entry(entry: zipfile.ZipInfo, path: str) -> None:
    """Refuse what is no piece of a crate, by its name. Raises MalformedFile, LimitExceeded."""
    name = entry.filename
    inner = name.removeprefix(_PIECES) if name.startswith(_PIECES) else name.removeprefix(_PICTURES)
    is_known = name == _MANIFEST or (
        name.startswith((_PIECES, _PICTURES)) and inner and "/" not in inner and "\\" not in inner
        and not inner.startswith(".")
    )  # fmt: skip
    if not is_known or entry.is_dir():
        raise MalformedFile(f"the crate holds something that is no piece of it: {name[:80]!r}", file=path)
    if entry.external_attr >> 28 == 0xA:
        raise MalformedFile(f"the crate holds a link: {name[:80]!r}", file=path)
    if entry.file_size > max(_RATIO * entry.compress_size, _LARGE):
        raise LimitExceeded(
            f"a piece of the crate unpacks to far more than it is: {name[:80]!r}", file=path
        )


def verify(crate: Crate) -> list[Problem]:
    """Everything that is not right in a crate: pieces missing, changed or not listed, revisions that do not
    fit together."""
    from gondrel.core.register.keeping import content_of

    problems: list[Problem] = []
    manifest, names = crate.manifest, set(crate.archive.namelist())
    problem = _shape(manifest)
    if problem:
        return [Problem(_MANIFEST, problem)]
    expected = {_MANIFEST}
    for folder, kind, ending in ((_PIECES, "pieces", ""), (_PICTURES, "pictures", ".png")):
        for key, said in manifest[kind].items():
            name = f"{folder}{key}{ending}"
            expected.add(name)
            if name not in names:
                problems.append(Problem(name, "is missing"))
                continue
            problems += _piece_problems(crate.archive, name, said)
    problems += [Problem(name, "is not listed") for name in sorted(names - expected)]
    known = {row["id"]: row for row in manifest["revisions"]}
    if len(known) != len(manifest["revisions"]):
        problems.append(Problem(_MANIFEST, "two revisions have one identity"))
    before: set[str] = set()
    for row in manifest["revisions"]:
        name = f"{row['number']}/{row['major']}.{row['minor']}"
        missing = [use["revision"] for use in row["uses"] if use["revision"] not in before]
        if missing:
            problems.append(Problem(name, "uses something that does not come before it"))
            continue
        before.add(row["id"])
        absent = [key for key in row["bodies"] if key not in manifest["pieces"]]
        if absent:
            problems.append(Problem(name, f"its body {absent[0][:12]} is not in the crate"))
        uses = [(known[use["revision"]]["content"], use["occurrence"]) for use in row["uses"]]
        if content_of(row["product"], uses) != row["content"]:
            problems.append(Problem(name, "is not what its content says: it was changed"))
        if [body.get("blob") for body in row["product"].get("bodies", ())] != row["bodies"]:
            problems.append(Problem(name, "lists other bodies than it has"))
    return problems


def _piece_problems(archive: zipfile.ZipFile, name: str, said: Json) -> list[Problem]:
    if archive.getinfo(name).file_size != said["bytes"]:
        return [Problem(name, "is of another size")]
    digest = hashlib.sha256()
    try:
        with archive.open(name) as stream:
            while data := stream.read(1 << 20):
                digest.update(data)
    except _DAMAGE as error:
        return [Problem(name, f"can't be read: {_said(error)}")]
    return [] if digest.hexdigest() == said["sha256"] else [Problem(name, "was changed")]


_ROW = {
    "id": str, "item": str, "number": str, "major": str, "minor": int, "state": str, "label": str,
    "description": str, "content": str, "product": dict, "bodies": list, "uses": list, "made": dict,
    "source": dict, "remarks": str, "lineage": str, "item_lineage": str,
}  # fmt: skip


_LISTS = {"items": list, "revisions": list, "events": list, "pieces": dict, "pictures": dict}


def _shape(manifest: Json) -> str:
    """What of a list is not as it should be; empty where all is."""
    for key, kind in _LISTS.items():
        if not isinstance(manifest.get(key), kind):
            return f"its {key} are damaged"
    for row in manifest["revisions"]:
        if problem := _row_shape(row):
            return problem
    for folder in ("pieces", "pictures"):
        for key, said in manifest[folder].items():
            sound = (
                isinstance(said, dict)
                and isinstance(said.get("bytes"), int)
                and (isinstance(said.get("sha256"), str) and len(said["sha256"]) == _HASH)
            )
            if not sound or "/" in key or (folder == "pieces" and key != said["sha256"]):
                return f"a piece is listed wrongly: {key[:40]!r}"
    for each in manifest["events"]:
        if not isinstance(each, dict) or not _has_texts(each, "revision", "what", "who", "when"):
            return "its histories are damaged"
    return ""


def _has_texts(row: Json, *keys: str) -> bool:
    return all(isinstance(row.get(key), str) for key in keys)


def _row_shape(row: object) -> str:
    if not isinstance(row, dict) or any(not isinstance(row.get(k), kind) for k, kind in _ROW.items()):
        return "a revision is damaged"
    major, minor = row["major"], row["minor"]
    if isinstance(minor, bool) or minor < 1 or not row["number"] or not major.isalpha() or len(major) > 8:
        return "a revision's name is damaged"
    if row["state"] not in ("in work", "released", "withdrawn"):
        return "a revision's state is damaged"
    if not all(isinstance(key, str) for key in row["bodies"]):
        return "a revision's bodies are damaged"
    if not _has_texts(row["made"], "at", "by") or not _has_texts(row["source"], "name", "sha256"):
        return "a revision's origin is damaged"
    for use in row["uses"]:
        is_use = isinstance(use, dict) and isinstance(use.get("occurrence"), dict)
        if not is_use or not isinstance(use.get("revision"), str):
            return "a use is damaged"
    return ""
