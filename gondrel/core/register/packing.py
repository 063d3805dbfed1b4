"""Crates as they are written: one file with items, all they use, their revisions, states and histories."""

from __future__ import annotations

import hashlib
import json
import zipfile
from collections.abc import Mapping, Sequence
from typing import Any, BinaryIO

from sqlalchemy import Connection

from gondrel.core.errors import InputError
from gondrel.core.model.store import BlobStore
from gondrel.core.register.crates import FORMAT, MANIFEST, PICTURES, PIECES, VERSION
from gondrel.core.register.gathering import Gathered, events_of_items, gathered
from gondrel.core.register.keeping import SOURCE
from gondrel.core.register.looking import revision_named
from gondrel.core.work import SILENT, Progress

__all__ = ["pack", "packed_revisions"]

_SMALL = zipfile.ZIP_DEFLATED
"""The list is packed small; pieces are stored as they are: packing takes hardly more than copying."""

Json = dict[str, Any]


def packed_revisions(
    connection: Connection, names: Sequence[str], *, all_revisions: bool = True
) -> list[Gathered]:
    """What a crate with some items holds: what is used before what uses it.

    Args:
        names: of items or revisions; all_revisions: whether every revision of each item goes along, or only
            those that are named and what these use.

    Raises:
        UsageError: for a name that is none.
    """
    asked = [revision_named(connection, name).id for name in names]
    return gathered(connection, asked, all_revisions=all_revisions)


def pack(
    connection: Connection, blobs: BlobStore, names: Sequence[str], revisions: Sequence[Gathered],
    stream: BinaryIO, *, pictures: Mapping[str, bytes] | None = None,
    sources: Mapping[str, bytes] | None = None, progress: Progress = SILENT,
) -> None:  # fmt: skip
    """Write a crate with items, everything they use and the received files that are kept.

    Args:
        names: what was asked for; revisions: what goes along for it, as packed_revisions finds it.
        pictures: PNG by the id of a revision; sources: received files by their SHA-256 beside those that
            the register keeps.

    Raises:
        InputError: when a body is missing from the register, or is not what its name says.
    """
    rows = [_row(each) for each in revisions]
    pieces = {blob: "brep" for row in rows for blob in row["bodies"]}
    wanted = {row["source"]["sha256"] for row in rows} - {""}
    wanted |= {key for row in rows for _, key in row["source"]["files"]}
    given = {key: data for key, data in (sources or {}).items() if key in wanted}
    pieces |= {key: SOURCE for key in wanted - set(pieces) if key in given or blobs.has(key, SOURCE)}
    numbers = sorted({row["number"] for row in rows})
    keys = {row["id"] for row in rows}
    shown = {key: data for key, data in sorted((pictures or {}).items()) if key in keys}
    manifest = {
        "format": FORMAT,
        "version": VERSION,
        "items": numbers,
        "asked_for": list(names),
        "revisions": rows,
        "events": list(events_of_items(connection, numbers)),
        "pieces": {
            key: {"sha256": key, "bytes": len(given[key]) if key in given else _size(blobs, key, kind)}
            for key, kind in pieces.items()
        },
        "pictures": {
            key: {"sha256": hashlib.sha256(data).hexdigest(), "bytes": len(data)}
            for key, data in shown.items()
        },
    }
    with zipfile.ZipFile(stream, "w") as archive:
        archive.writestr(_fixed(MANIFEST), _lines(manifest), _SMALL)
        for key, kind in progress.each(sorted(pieces.items()), "Packing"):
            data = given[key] if key in given else blobs.get_as(key, kind)
            if hashlib.sha256(data).hexdigest() != key:
                raise InputError(f"piece {key[:12]} in the register's folder is damaged")
            archive.writestr(_fixed(PIECES + key), data)
        for key, data in shown.items():
            archive.writestr(_fixed(f"{PICTURES}{key}.png"), data)


def _lines(manifest: Json) -> str:
    """The list as JSON, a line for each thing in it, so that it can be read and compared line by line."""
    parts = []
    for key, value in manifest.items():
        if isinstance(value, list):
            text = "[\n" + ",\n".join(map(_plain, value)) + "]"
        elif isinstance(value, dict):
            text = "{\n" + ",\n".join(f"{_plain(k)}: {_plain(v)}" for k, v in value.items()) + "}"
        else:
            text = _plain(value)
        parts.append(f"{_plain(key)}: {text}")
    return "{" + ",\n".join(parts) + "}\n"


def _plain(value: object) -> str:
    return json.dumps(value, sort_keys=True)


def _size(blobs: BlobStore, key: str, kind: str) -> int:
    try:
        return blobs.size_of(key, kind)
    except KeyError:
        raise InputError(f"body {key[:12]} is missing from the register's folder") from None


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
        "source": {
            "name": row.source, "sha256": row.source_sha256, "files": json.loads(row.referred)
        },
        "remarks": row.remarks,
        "lineage": row.lineage, "item_lineage": row.item_lineage,
    }  # fmt: skip
