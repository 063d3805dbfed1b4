"""Receive: the file card, the model as sent, and the measures of its bodies."""

from __future__ import annotations

import hashlib
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from gondrel.core.errors import InputError
from gondrel.core.formats.registry import by_content
from gondrel.core.formats.settings import AS_SENT, ReceiveSettings
from gondrel.core.kernel.derive import detail_of, facts_of, field_of, mesh_of
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.detail import BodyDetail
from gondrel.core.model.provenance import FileFacts, Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["describe_bodies", "file_card", "map_deviation", "measure_all", "mesh_bodies", "receive"]

_CHUNK = 1 << 20


def file_card(path: str, *, progress: Progress = SILENT) -> FileFacts:
    """What a file says of itself, without loading it.

    Raises:
        InputError: when it can't be read, is of no known format or is cut off.
    """
    card: FileFacts = by_content(path).function("card")(path)
    return card


def sha256_of(path: str) -> str:
    """The SHA-256 of a file. Raises InputError when it can't be read."""
    digest = hashlib.sha256()
    try:
        with Path(path).open("rb") as stream:
            while chunk := stream.read(_CHUNK):
                digest.update(chunk)
    except OSError as error:
        raise InputError(f"can't be read: {error.strerror}", file=path) from error
    return digest.hexdigest()


def receive(
    path: str, store_folder: str, settings: ReceiveSettings = AS_SENT, *, progress: Progress = SILENT
) -> Model:
    """Read a file raw into the store.

    Each body's hash is handed out as ("body", hash) as soon as it is stored.

    Raises:
        InputError: when it can't be read. KernelRefused: when the kernel fails over it.
    """
    known = by_content(path)
    more = {"settings": settings} if known.takes_settings else {}
    model: Model = known.function("read")(path, BlobStore(Path(store_folder)), progress=progress, **more)
    assert model.provenance is not None
    provenance = Provenance(
        file=model.provenance.file,
        sha256=sha256_of(path),
        settings=(("reading", "as sent"),),
        received=datetime.now(UTC).isoformat(timespec="seconds"),
    )
    return replace(model, provenance=provenance)


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
    pairs: tuple[tuple[str, str], ...], store_folder: str, *, progress: Progress = SILENT
) -> None:
    """Deviation of the mesh of each body from its counterpart, both ways, handed out pair by pair.

    Raises:
        KernelRefused: when the kernel fails over one of them.
    """
    store = BlobStore(Path(store_folder))
    for one, other in progress.each(pairs, "Comparing surfaces"):
        for key in (one, other):
            mesh_of(store, key)
        field_of(store, other, one)
        field_of(store, one, other)
        progress.give(("field", one, other))
