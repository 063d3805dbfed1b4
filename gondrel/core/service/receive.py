"""Receive: the model as sent, and the measures of its bodies."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from gondrel.core.arrange.intake import take_in
from gondrel.core.errors import InputError, UsageError
from gondrel.core.formats.base import Format
from gondrel.core.formats.registry import by_content
from gondrel.core.formats.settings import AS_SENT, ReceiveSettings
from gondrel.core.kernel.derive import detail_of, facts_of, field_of, mesh_of
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.detail import BodyDetail
from gondrel.core.model.doubts import card_doubts
from gondrel.core.model.later import LoadedShapes
from gondrel.core.model.origins import keep_origins, origins_of
from gondrel.core.model.provenance import Note
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.cards import as_packed, with_doubts
from gondrel.core.service.preview import make_stand_ins
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import checked_file, sha256_of
from gondrel.core.work.packed import unpacked

__all__ = ["describe_bodies", "load_shapes", "map_deviation", "measure_all", "mesh_bodies", "receive"]


def receive(
    path: str, store_folder: str, settings: ReceiveSettings = AS_SENT, *, progress: Progress = SILENT
) -> Model:
    """Read a file raw into the store.

    Each body's hash is handed out as ("body", hash) as soon as it is stored.

    Raises:
        InputError: when it can't be read. KernelRefused: when the kernel fails over it.
    """
    store = BlobStore(Path(store_folder))
    with unpacked(checked_file(path)) as plain:
        known = by_content(plain)
        searching = (
            settings
            if plain == path
            else replace(settings, search=(str(Path(path).resolve().parent), *settings.search))
        )
        part = progress.part(0.0, 0.9)
        model = _read(known, plain, store, searching, part, is_packed=plain != path)
        if plain != path and (origins := origins_of(store, plain)) is not None:
            keep_origins(store, path, origins)
    assert model.provenance is not None
    try:
        model.check_structure()
    except InputError as error:
        error.file = error.file or path
        raise
    names = [text for p in model.products for text in (p.name, p.number)]
    doubts = tuple(n for n in card_doubts(model.provenance.file, names) if n.code != "files-missing")
    provenance = replace(
        model.provenance,
        file=with_doubts(as_packed(model.provenance.file, path), known),
        sha256=sha256_of(path),
        settings=settings.departures(),
        files=tuple((p, sha256_of(p)) for p, _ in model.provenance.files),
        received=datetime.now(UTC).isoformat(timespec="seconds"),
    )
    model = replace(model, provenance=provenance, notes=(*doubts, *model.notes))
    make_stand_ins(model, store_folder)
    return take_in(model, settings, store, progress=progress.part(0.9, 1.0))


def _read(
    known: Format,
    path: str,
    store: BlobStore,
    settings: ReceiveSettings,
    progress: Progress,
    *,
    is_packed: bool,
) -> Model:
    """The model of a file; without its shapes where they are asked for later and that can be."""
    later = known.reads_structure if settings.shapes == "asked" else None
    if later is None:
        return known.reads(path, store, settings=settings, progress=progress)
    others = [key for key, _ in settings.departures() if key not in ("shapes", "search")]
    if is_packed:
        why = "the file is packed"
    elif others:
        why = f"they are taken in another way than the file has them ({', '.join(others)})"
    elif (model := later(path, store, progress=progress)) is not None:
        return model
    else:
        why = "it can't be read in parts"
    model = known.reads(path, store, settings=settings, progress=progress)
    told = Note("shapes-loaded", f"all shapes were loaded at once: {why}")
    return replace(model, notes=(told, *model.notes))


def load_shapes(
    model: Model, path: str, records: tuple[int, ...], store_folder: str, *, progress: Progress = SILENT
) -> LoadedShapes:
    """The shapes that wait in a file under some records, for a model of its structure.

    Each body's hash is handed out as ("body", hash) as soon as it is stored.

    Raises:
        InputError: when the file can't be read. UsageError: when it is another now. KernelRefused.
    """
    known = by_content(str(checked_file(path)))
    reads = known.reads_shapes
    if reads is None:
        raise UsageError(f"{known.title} files are read whole only")
    return reads(model, path, records, BlobStore(Path(store_folder)), progress=progress)


def measure_all(
    keys: tuple[str, ...], store_folder: str, *, progress: Progress = SILENT
) -> dict[str, BodyFacts]:
    """Measures of stored bodies by hash. Raises KernelRefused.

    They are taken from the last to the first: another process may be at work from the other end.
    """
    store = BlobStore(Path(store_folder))
    facts = {key: facts_of(store, key) for key in progress.each(keys[::-1], "Measuring bodies")}
    return {key: facts[key] for key in keys}


def mesh_bodies(keys: tuple[str, ...], store_folder: str, *, progress: Progress = SILENT) -> None:
    """Tessellate stored bodies, handing out ("mesh", hash) for each.

    Raises:
        KernelRefused: when the kernel fails over one of them.
    """
    store = BlobStore(Path(store_folder))
    for key in progress.each(keys, "Tessellating"):
        mesh_of(store, key)
        progress.give(("mesh", key))


def describe_bodies(
    keys: tuple[str, ...], store_folder: str, *, progress: Progress = SILENT
) -> dict[str, BodyDetail]:
    """Kinds and sizes of the faces and edges of stored bodies by hash. Raises KernelRefused."""
    store = BlobStore(Path(store_folder))
    return {key: detail_of(store, key) for key in progress.each(keys, "Looking at faces")}


def map_deviation(
    wanted: tuple[tuple[str, tuple[str, ...]], ...], store_folder: str, *, progress: Progress = SILENT
) -> None:
    """Deviation of the mesh of each body from the bodies it is compared with, handed out one by one.

    Args:
        wanted: hash of a body, and of those it is compared with.

    Raises:
        KernelRefused: when the kernel fails over one of them.
    """
    store = BlobStore(Path(store_folder))
    for key, others in progress.each(wanted, "Comparing surfaces"):
        mesh_of(store, key)
        field_of(store, key, others)
        progress.give(("field", key))
