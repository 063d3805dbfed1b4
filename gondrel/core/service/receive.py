"""Receive: the file card, the model as sent, and the measures of its bodies."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from gondrel.core.errors import InputError
from gondrel.core.formats.registry import by_content
from gondrel.core.kernel.derive import facts_of, mesh_of
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.provenance import FileFacts, Note, Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["file_card", "measure_all", "mesh_bodies", "receive", "with_measured_notes"]

_CHUNK = 1 << 20
_KERNEL_TOLERANCE = 1e-7


def file_card(path: str) -> FileFacts:
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


def receive(path: str, store_folder: str, *, progress: Progress = SILENT) -> Model:
    """Read a file raw into the store.

    Each body's hash is handed out as ("body", hash) as soon as it is stored.

    Raises:
        InputError: when it can't be read. KernelRefused: when the kernel fails over it.
    """
    known = by_content(path)
    model: Model = known.function("read")(path, BlobStore(Path(store_folder)), progress=progress)
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


def mesh_bodies(
    keys: tuple[str, ...], store_folder: str, *, progress: Progress = SILENT
) -> dict[str, BodyFacts]:
    """Tessellate and measure stored bodies; each is handed out as ("mesh", hash, facts).

    Raises:
        KernelRefused: when the kernel fails over one of them.
    """
    store = BlobStore(Path(store_folder))
    found = {}
    for key in progress.each(keys, "Tessellating"):
        found[key] = mesh_of(store, key)
        progress.give(("mesh", key, found[key]))
    return found


def with_measured_notes(model: Model, facts: Mapping[str, BodyFacts]) -> Model:
    """The model with a note for each body whose edges or vertices need a wider tolerance than sent.

    The kernel widens tolerances where curves, vertices and surfaces do not meet; geometry stays
    as it was. That is the one change the raw reading makes, so it is measured and told.
    """
    card = model.provenance.file if model.provenance else None
    allowed = max(card.uncertainty or 0.0 if card else 0.0, _KERNEL_TOLERANCE) * 1.001
    notes = [note for note in model.notes if note.code != "tolerance-widened"]
    for product, body in model.bodies():
        found = facts.get(body.blob)
        if found is not None and found.tolerance > allowed:
            text = (
                f"its edges or vertices lie up to {found.tolerance:.3g} mm off; the file claims "
                f"{allowed:.1g} mm; the tolerance was widened to match, the geometry was not touched"
            )
            notes.append(Note("tolerance-widened", text, product.label))
    return replace(model, notes=tuple(notes))
