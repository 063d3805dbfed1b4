"""What is done with crates: packed, looked into, verified, taken in."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from gondrel.core.errors import InputError, WriteFailed
from gondrel.core.register.crates import Crate, Problem, read_crate, verify
from gondrel.core.register.opening import Opened, open_register
from gondrel.core.register.packing import pack, packed_revisions
from gondrel.core.register.unpacking import checked, conflicts_of, unpack
from gondrel.core.service.previews import previews
from gondrel.core.service.register import author_of
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import check_places, deliver, private_folder

__all__ = ["crate_command"]

Json = dict[str, Any]


def crate_command(
    what: str, address: str, blobs: str, args: Mapping[str, Any], store: str, *, progress: Progress = SILENT
) -> Json:
    """The object of ``gondrel crate``: what is pack, list, verify, look or unpack.

    Raises:
        InputError, UsageError, RuleBroken, ContentConflict, RegisterBusy, WriteFailed.
    """
    if what in ("list", "verify"):
        return _list(args["path"]) if what == "list" else _verify(args["path"])
    opened = open_register(address, blobs)
    try:
        return {"pack": _pack, "unpack": _unpack, "look": _look}[what](opened, args, progress)
    finally:
        opened.close()


def _pack(opened: Opened, args: Mapping[str, Any], progress: Progress) -> Json:
    names: Sequence[str] = args["names"]
    everything = not args.get("used_only")
    sources = {}
    for path in args.get("sources", ()):
        data = Path(path).read_bytes()
        sources[hashlib.sha256(data).hexdigest()] = data
    out = Path(args["out"])
    check_places([out], force=True)
    with opened.reading() as connection, private_folder(out.resolve().parent) as folder:
        revisions = packed_revisions(connection, names, all_revisions=everything)
        pictures = {}
        if args.get("pictures", True):
            keys = [each.row.id for each in revisions]
            pictures = previews(connection, opened.store, keys, progress=progress.part(0.0, 0.7))
        try:
            with (folder / "crate").open("wb") as stream:
                pack(
                    connection, opened.store, names, revisions, stream, pictures=pictures, sources=sources,
                    progress=progress.part(0.7, 1.0),
                )  # fmt: skip
        except OSError as error:
            raise WriteFailed(f"can't be written: {error.strerror}", file=str(out)) from error
        deliver({out: folder / "crate"})
    return {"sent": [{"path": str(args["out"]), "bytes": out.stat().st_size}], **_list(args["out"])}


def _list(path: str) -> Json:
    return _listed(read_crate(path), path)


def _listed(crate: Crate, path: str) -> Json:
    rows = crate.manifest.get("revisions")
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        raise InputError("the crate's list is damaged", file=path)
    return {
        "items": sorted({str(row.get("number")) for row in rows}),
        "revisions": [
            {key: row.get(key) for key in ("number", "major", "minor", "state", "label")} for row in rows
        ],
        "pieces": len(crate.archive.namelist()) - 1,
    }


def _verify(path: str) -> Json:
    try:
        crate = read_crate(path)
    except InputError as error:
        return {"ok": False, "items": 0, "revisions": 0,
                "problems": [asdict(Problem("crate", error.message))]}  # fmt: skip
    return _verified(crate)


def _verified(crate: Crate) -> Json:
    problems = verify(crate)
    rows = crate.manifest.get("revisions", [])
    rows = rows if isinstance(rows, list) else []
    return {
        "ok": not problems,
        "items": len({row.get("number") for row in rows if isinstance(row, dict)}),
        "revisions": len(rows),
        "problems": [asdict(problem) for problem in problems],
    }


def _look(opened: Opened, args: Mapping[str, Any], progress: Progress) -> Json:
    """What a crate holds, what is wrong with it, what of it is here with another content, previews."""
    crate = read_crate(args["path"])
    told = {**_verified(crate), **_listed(crate, args["path"])}
    result: Json = {**told, "conflicts": [], "pictures": []}
    if result["ok"]:
        with opened.reading() as connection:
            found = conflicts_of(connection, crate)
            ours = previews(connection, opened.store, [c.our_id for c in found], progress=progress)
        result["conflicts"] = [
            {"name": str(c.name), "ours": list(c.ours), "theirs": list(c.theirs),
             "pictures": [ours[c.our_id], crate.picture(c.their_id)]} for c in found
        ]  # fmt: skip
        result["pictures"] = [crate.picture(row["id"]) for row in crate.revisions]
    return result


def _unpack(opened: Opened, args: Mapping[str, Any], progress: Progress) -> Json:
    crate = read_crate(args["path"])
    with checked(crate, opened.store) as looked_at, opened.writing() as connection:
        put = unpack(
            connection, opened.store, looked_at, author_of(args), as_copy=args.get("as_copy", ""),
            resolved=dict(args.get("resolved", {})),
        )  # fmt: skip
    return {"put": [{"name": str(each.name), "what": each.what} for each in put]}
