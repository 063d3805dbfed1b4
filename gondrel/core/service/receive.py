"""Receive: the model as sent, and the measures of its bodies."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from gondrel.core.arrange.intake import take_in
from gondrel.core.errors import InputError
from gondrel.core.formats.registry import by_content
from gondrel.core.formats.settings import AS_SENT, ReceiveSettings
from gondrel.core.kernel.derive import detail_of, facts_of, field_of, mesh_of
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.detail import BodyDetail
from gondrel.core.model.doubts import card_doubts
from gondrel.core.model.origins import keep_origins, origins_of
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.cards import as_packed, with_doubts
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import checked_file, sha256_of
from gondrel.core.work.packed import unpacked

__all__ = ["describe_bodies", "map_deviation", "measure_all", "mesh_bodies", "receive"]


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
        model = known.reads(plain, store, settings=searching, progress=progress.part(0.0, 0.9))
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
    return take_in(model, settings, store, progress=progress.part(0.9, 1.0))


def measure_all(
    keys: tuple[str, ...], store_folder: str, *, progress: Progress = SILENT
) -> dict[str, BodyFacts]:
    """Measures of stored bodies by hash. Raises KernelRefused."""
    store = BlobStore(Path(store_folder))
    return {key: facts_of(store, key) for key in progress.each(keys, "Measuring bodies")}


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
