"""Crates as they are read: opened safely, looked at whole.

The form is told in docs/register.md: a ZIP archive with manifest.json first, and beside it pieces named by
the SHA-256 of what they hold.
"""

from __future__ import annotations

import hashlib
import json
import mmap
import zipfile
import zlib
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import chain
from pathlib import Path
from typing import Any

from cattrs.errors import BaseValidationError

from gondrel.core.errors import InputError, LimitExceeded, MalformedFile
from gondrel.core.model.codec import from_plain
from gondrel.core.model.product import Occurrence, Product
from gondrel.core.register.keeping import content_of

__all__ = [
    "FORMAT",
    "MANIFEST",
    "PICTURES",
    "PIECES",
    "VERSION",
    "Crate",
    "Problem",
    "read_crate",
    "verify",
]

FORMAT, VERSION = "gondrel-crate", 1
MANIFEST, PIECES, PICTURES = "manifest.json", "pieces/", "pictures/"
_MOST_BYTES = 64 << 30
_MOST_PIECES = 1_000_000
_MOST_MANIFEST = 1 << 30
_RATIO, _LARGE = 400, 1 << 20
"""A piece larger than a megabyte that swells more than this is no body."""
_DAMAGE = (
    zipfile.BadZipFile, zlib.error, OSError, EOFError, ValueError, NotImplementedError, RuntimeError
)  # fmt: skip
_HASH = 64
_TOGETHER = 2

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
        manifest: what it says it holds; data: the archive as it is.
    """

    manifest: Json
    archive: zipfile.ZipFile
    data: memoryview

    @property
    def revisions(self) -> list[Json]:
        """What it says of its revisions."""
        return list(self.manifest["revisions"])

    def picture(self, revision: str) -> bytes | None:
        """The preview of a revision, PNG. None where there is none, or it is damaged."""
        said = self.manifest.get("pictures", {}).get(revision)
        try:
            data = self.archive.read(f"{PICTURES}{revision}.png")
        except (KeyError, *_DAMAGE):
            return None
        return data if said and hashlib.sha256(data).hexdigest() == said.get("sha256") else None


def _said(error: BaseException) -> str:
    return " ".join(str(error).split())[:120] or type(error).__name__


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
    if MANIFEST not in names or archive.getinfo(MANIFEST).file_size > _MOST_MANIFEST:
        raise MalformedFile("the crate has no list of what it holds", file=path)
    try:
        manifest = json.loads(archive.read(MANIFEST))
    except (RecursionError, *_DAMAGE) as error:
        raise MalformedFile(f"the crate's list can't be read: {_said(error)}", file=path) from None
    if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
        raise MalformedFile("is no crate", file=path)
    version = manifest.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise MalformedFile("the crate says no version", file=path)
    if version > VERSION:
        raise InputError(f"the crate is of a newer version ({version}) than this program reads", file=path)
    with Path(path).open("rb") as stream:
        data = memoryview(mmap.mmap(stream.fileno(), 0, access=mmap.ACCESS_READ))
    return Crate(manifest, archive, data)


def _checked_entry(entry: zipfile.ZipInfo, path: str) -> None:
    """Refuse what is no piece of a crate, by its name. Raises MalformedFile, LimitExceeded."""
    name = entry.filename
    inner = name.removeprefix(PIECES) if name.startswith(PIECES) else name.removeprefix(PICTURES)
    is_known = name == MANIFEST or (
        name.startswith((PIECES, PICTURES)) and inner and "/" not in inner and "\\" not in inner
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


def verify(crate: Crate, keep: Callable[[str], Path | None] = lambda _: None) -> list[Problem]:
    """Everything that is not right in a crate: pieces missing, changed or not listed, revisions that do not
    fit together.

    Args:
        keep: where a piece is written while it is looked at, by its hash; None where it is not wanted.
    """
    manifest, names = crate.manifest, set(crate.archive.namelist())
    problem = _shape(manifest)
    if problem:
        return [Problem(MANIFEST, problem)]
    listed = {
        f"{folder}{key}{ending}": (key if kind == "pieces" else "", said)
        for folder, kind, ending in ((PIECES, "pieces", ""), (PICTURES, "pictures", ".png"))
        for key, said in manifest[kind].items()
    }

    def look(name: str) -> list[Problem]:
        key, said = listed[name]
        if name not in names:
            return [Problem(name, "is missing")]
        return _piece_problems(crate, name, said, keep(key) if key else None)

    with ThreadPoolExecutor(_TOGETHER) as pool:  # pieces are read and hashed while the list is looked at
        waiting = pool.map(look, listed)
        of_revisions = _revision_problems(manifest)
        problems = list(chain.from_iterable(waiting))
    problems += [Problem(name, "is not listed") for name in sorted(names - set(listed) - {MANIFEST})]
    return problems + of_revisions


def _revision_problems(manifest: Json) -> list[Problem]:
    problems: list[Problem] = []
    known = {row["id"]: row for row in manifest["revisions"]}
    if len(known) != len(manifest["revisions"]):
        problems.append(Problem(MANIFEST, "two revisions have one identity"))
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
        try:
            from_plain(row["product"], Product)
            for use in row["uses"]:
                from_plain(use["occurrence"], Occurrence)
        except (BaseValidationError, KeyError, TypeError, ValueError) as error:
            problems.append(Problem(name, f"can't be read ({type(error).__name__})"))
    return problems


def _piece_problems(crate: Crate, name: str, said: Json, kept: Path | None) -> list[Problem]:
    entry = crate.archive.getinfo(name)
    if entry.file_size != said["bytes"]:
        return [Problem(name, "is of another size")]
    try:
        data = _stored(crate.data, entry)
        if data is None:
            data = memoryview(crate.archive.read(entry))
        if kept is not None:
            kept.write_bytes(data)
    except _DAMAGE as error:
        return [Problem(name, f"can't be read: {_said(error)}")]
    return [] if hashlib.sha256(data).hexdigest() == said["sha256"] else [Problem(name, "was changed")]


def _stored(data: memoryview, entry: zipfile.ZipInfo) -> memoryview | None:
    """What an entry holds that was not packed small, without copying it; None for any other.

    Source: the format of ZIP archives (APPNOTE 6.3, section 4.3.7, local file header).
    """
    if entry.compress_type != zipfile.ZIP_STORED or entry.flag_bits & 1:
        return None
    head = data[entry.header_offset : entry.header_offset + 30]
    name, extra = (int.from_bytes(head[at : at + 2], "little") for at in (26, 28))
    start = entry.header_offset + 30 + name + extra
    held = data[start : start + entry.file_size]
    if (
        bytes(head[:4]) != b"PK\x03\x04"
        or bytes(data[start - extra - name : start - extra]) != entry.filename.encode()
    ):
        raise zipfile.BadZipFile("its heading says another thing than the archive's list")
    if len(held) != entry.file_size or zlib.crc32(held) != entry.CRC:
        raise zipfile.BadZipFile("its sum is another")
    return held


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


def _is_major(text: str) -> bool:
    return len(text) <= 8 and text.isascii() and (text.isalpha() or text.isdigit())


def _is_place(said: object) -> bool:
    """Whether it is a place beneath a folder, and a hash."""
    if not isinstance(said, list) or len(said) != 2 or not all(isinstance(each, str) for each in said):
        return False
    parts = said[0].replace("\\", "/").split("/")
    return len(said[1]) == _HASH and not {"", ".", ".."} & set(parts)


def _row_shape(row: object) -> str:
    if not isinstance(row, dict) or any(not isinstance(row.get(k), kind) for k, kind in _ROW.items()):
        return "a revision is damaged"
    major, minor = row["major"], row["minor"]
    if isinstance(minor, bool) or minor < 1 or not row["number"] or not _is_major(major):
        return "a revision's name is damaged"
    if row["state"] not in ("in work", "released", "withdrawn"):
        return "a revision's state is damaged"
    if not all(isinstance(key, str) for key in row["bodies"]):
        return "a revision's bodies are damaged"
    if not _has_texts(row["made"], "at", "by") or not _has_texts(row["source"], "name", "sha256"):
        return "a revision's origin is damaged"
    if not all(_is_place(each) for each in row["source"].get("files", ())):
        return "a file that a revision's source refers to is listed wrongly"
    for use in row["uses"]:
        is_use = isinstance(use, dict) and isinstance(use.get("occurrence"), dict)
        if not is_use or not isinstance(use.get("revision"), str):
            return "a use is damaged"
    return ""
