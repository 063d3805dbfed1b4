"""Gathering the files of an assembly: received, referred to, sent; a folder or an archive with a list."""

from __future__ import annotations

import csv
import io
import json
import os
import shutil
import zipfile
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path, PureWindowsPath
from typing import Any

from sqlalchemy import Row

from gondrel.core.errors import WriteFailed
from gondrel.core.model.provenance import Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.register.keeping import SOURCE
from gondrel.core.register.opening import open_register
from gondrel.core.register.packing import packed_revisions
from gondrel.core.service.crossing import SUFFIX, Crossing
from gondrel.core.service.intake import receive_by
from gondrel.core.service.opening import open_crossing
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import check_places, deliver, private_folder, sha256_of

__all__ = [
    "Wanted", "files_of_crossing", "gather_command", "gather_crossing", "gather_register_command",
]  # fmt: skip

_LIST = "list.csv"
_COLUMNS = ("file", "kind", "state", "bytes", "sha256", "from", "belongs to", "when")

Json = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Wanted:
    """A file that belongs to an assembly.

    Args:
        kind: received, referenced or sent; place: where it goes, relative; empty where there is no file.
        path: where it lies; sha256: what it was, empty where nobody noted it.
        to: what it belongs to: the file that refers to it, the one it was sent to, a revision.
    """

    kind: str
    place: str
    path: str
    sha256: str = ""
    to: str = ""
    when: str = ""


# --- what belongs to what ------------------------------------------------------------------------------


def files_of_crossing(crossing: Crossing) -> list[Wanted]:
    """What a crossing was received from, what that refers to, and what was sent from it."""
    found: list[Wanted] = []
    provenances = [source.provenance for source in crossing.sources]
    if not provenances and crossing.model is not None and crossing.model.provenance is not None:
        provenances = [crossing.model.provenance]
    for number, provenance in enumerate(provenances):
        found += _received(provenance, _folder("received", number))
    if crossing.model is not None:
        found += _missing(crossing.model)
    later: set[str] = set()
    sent: list[Wanted] = []
    for number, entry in reversed(list(enumerate(crossing.log))):
        base = Path(os.path.commonpath([str(Path(path).parent) for path, _ in entry.files]))
        for path, digest in entry.files:
            if path not in later:  # what a later sending wrote over is not there any more
                place = f"{_folder('sent', number)}/{Path(path).relative_to(base).as_posix()}"
                sent.append(Wanted("sent", place, path, digest, entry.to or entry.card, entry.when))
        later |= {path for path, _ in entry.files}
    return [*found, *reversed(sent)]


def _folder(name: str, number: int) -> str:
    return name if number == 0 else f"{name}-{number + 1}"


def _received(provenance: Provenance, folder: str) -> Iterable[Wanted]:
    """The file and what it refers to, laid out so that it opens as it lies there."""
    (name, path, digest), *others = provenance.places()
    yield Wanted("received", f"{folder}/{name}", path, digest, "", provenance.received)
    for place, path, digest in others:
        yield Wanted("referenced", f"{folder}/{place}", path, digest, name)


def _missing(model: Model) -> Iterable[Wanted]:
    for product in model.products:
        if product.missing_file:
            yield Wanted("referenced", "", product.missing_file, "", product.label)


# --- gathering -----------------------------------------------------------------------------------------


def gather_command(
    path: str, out: str, options: ReceiveOptions, store: str, *, progress: Progress = SILENT
) -> Json:
    """The object of ``gondrel gather``: the files of a model file or of a crossing.

    Args:
        out: a folder that is not there yet or is empty, or a .zip file.

    Raises:
        InputError: when the model can't be read. OutputError: when the place is taken or can't be written.
    """
    _check_place(out)
    if path.endswith(SUFFIX):
        return _gather(files_of_crossing(open_crossing(path, store, progress=progress.part(0.0, 0.8))), out)
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.8))
    assert model.provenance is not None
    return _gather([*_received(model.provenance, "received"), *_missing(model)], out)


def gather_crossing(crossing: Crossing, out: str, *, progress: Progress = SILENT) -> Json:
    """The same for an open crossing. Raises OutputError as gather_command."""
    _check_place(out)
    return _gather(files_of_crossing(crossing), out)


def gather_register_command(
    address: str, blobs: str, names: Sequence[str], out: str, store: str, *, progress: Progress = SILENT
) -> Json:
    """The object of ``gondrel register gather``: the received files that are kept of revisions and all they
    use. Raises as gather_command and open_register do."""
    _check_place(out)
    opened = open_register(address, blobs)
    try:
        with opened.reading() as connection:
            rows = [each.row for each in packed_revisions(connection, names, all_revisions=False)]
        wanted = [each for row in rows for each in _kept(row, opened.store)]
    finally:
        opened.close()
    return _gather(wanted, out)


def _kept(row: Row[Any], blobs: BlobStore) -> Iterable[Wanted]:
    """The received file of a revision and what that refers to, as far as they are kept. Those of one
    received file lie in one folder, so that it opens as it lies there."""
    label = f"{row.number}/{row.major}.{row.minor}"
    name = _plain_name(row.source)
    files = [("received", name, row.source_sha256)]
    files += [("referenced", place, key) for place, key in json.loads(row.referred)]
    for kind, place, key in files:
        has = bool(key) and blobs.has(key, SOURCE)
        lies = str(blobs.folder / f"{key}.{SOURCE}") if has else place if key else ""
        folder = f"{Path(name).stem}-{row.source_sha256[:8]}"
        yield Wanted(kind, f"{folder}/{place}" if has else "", lies, key, label, row.made_at)


def _plain_name(name: str) -> str:
    """The last part of a name that may come from another machine."""
    last = PureWindowsPath(name).name
    return last if last not in ("", ".", "..") else "file"


def _check_place(out: str) -> None:
    """Raises OutputError where something lies there already."""
    if out.lower().endswith(".zip"):
        check_places([Path(out)], force=False)
        return
    place = Path(out)
    if place.exists() and (not place.is_dir() or any(place.iterdir())):
        raise WriteFailed(
            "there is something already", file=out, hint="give a folder that is empty, or new"
        )
    if not place.resolve().parent.is_dir():
        raise WriteFailed("the folder it is to be in is not there", file=out)


def _gather(wanted: Iterable[Wanted], out: str) -> Json:
    with private_folder(Path(out).resolve().parent) as folder:
        inner = folder / "files"
        inner.mkdir()
        rows = _laid_out(_apart(wanted), inner)
        (inner / _LIST).write_text(_as_csv(rows), "utf-8")
        if out.lower().endswith(".zip"):
            with zipfile.ZipFile(folder / "zip", "w", zipfile.ZIP_DEFLATED) as archive:
                for path in sorted(inner.rglob("*")):
                    if path.is_file():
                        archive.write(path, path.relative_to(inner).as_posix())
            deliver({Path(out): folder / "zip"})
        else:
            try:
                os.replace(inner, Path(out).resolve())
            except OSError as error:
                raise WriteFailed(f"can't be put in place: {error.strerror}", file=out) from error
    return {
        "gathered": out,
        "files": rows,
        "missing": [row["from"] for row in rows if row["state"] in ("missing", "not kept")],
    }


def _apart(wanted: Iterable[Wanted]) -> Iterable[Wanted]:
    """Two files that would lie in one place lie apart; what is the same file lies there once."""
    taken: dict[str, tuple[str, str]] = {}
    for each in wanted:
        place, number = each.place, 1
        known = each.path, each.sha256
        while place and taken.get(place.casefold(), known) != known:
            number += 1
            head, dot, suffix = each.place.rpartition(".")
            place = f"{head}-{number}{dot}{suffix}" if dot else f"{each.place}-{number}"
        if place:
            taken[place.casefold()] = known
        yield replace(each, place=place)


def _laid_out(wanted: Iterable[Wanted], folder: Path) -> list[Json]:
    rows = []
    done: dict[str, tuple[int, str]] = {}
    for each in wanted:
        size: int | None = None
        digest, state = "", "missing" if each.path else "not kept"
        target = folder / each.place
        if each.place and each.place not in done and Path(each.path).is_file():
            target.parent.mkdir(parents=True, exist_ok=True)
            try:
                shutil.copyfile(each.path, target)
            except OSError as error:
                raise WriteFailed(f"{each.path} can't be copied: {error.strerror}") from error
            done[each.place] = target.stat().st_size, sha256_of(target)
        if each.place in done:
            size, digest = done[each.place]
            state = "as it was" if digest == each.sha256 else "changed since" if each.sha256 else "as it is"
        rows.append(
            {"file": each.place if each.place in done else "", "kind": each.kind, "state": state,
             "bytes": size, "sha256": digest, "from": each.path, "belongs to": each.to, "when": each.when}
        )  # fmt: skip
    return rows


def _as_csv(rows: Iterable[Mapping[str, Any]]) -> str:
    stream = io.StringIO()
    table = csv.DictWriter(stream, _COLUMNS)
    table.writeheader()
    table.writerows(rows)
    return stream.getvalue()
