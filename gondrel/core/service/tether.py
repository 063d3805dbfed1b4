"""Tethers: kept links to the files a crossing was received from."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from functools import partial
from pathlib import Path

from gondrel.core.arrange.steps.file import steps_from_text
from gondrel.core.arrange.steps.runner import run_steps
from gondrel.core.carriage.changes import Difference
from gondrel.core.carriage.difference import compare_sources, take_over
from gondrel.core.errors import InputError
from gondrel.core.formats.step.read import read_component
from gondrel.core.kernel.derive import deviation_of, landmarks_of
from gondrel.core.model.graft import unresolved
from gondrel.core.model.provenance import Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.crossing import Source
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.settings import receive_settings_from
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import sha256_of

__all__ = ["changed_files", "look_again", "resolve_missing", "take_changes"]


def changed_files(sources: Iterable[Source], *, progress: Progress = SILENT) -> dict[str, str]:
    """The files of tethers that are not as they were received: "changed" or "gone", by path."""
    changed: dict[str, str] = {}
    for source in sources:
        if source.is_cut:
            continue
        for path, digest in files_of(source.provenance):
            try:
                now = sha256_of(path)
            except InputError:
                changed[path] = "gone"
                continue
            if now != digest:
                changed[path] = "changed"
    return changed


def files_of(provenance: Provenance) -> tuple[tuple[str, str], ...]:
    """Path and hash of every file something was received from."""
    return ((provenance.file.path, provenance.sha256), *provenance.files)


def look_again(source: Source, store_folder: str, *, progress: Progress = SILENT) -> Difference:
    """What changed at a source since it was received, received again by the same settings.

    Raises:
        InputError: when its file can't be read any more.
    """
    settings = receive_settings_from(dict(source.provenance.settings))
    path = source.provenance.file.path
    new = receive(path, store_folder, settings, progress=progress.part(0.0, 0.6))
    blobs = tuple(dict.fromkeys((*source.model.blobs(), *new.blobs())))
    facts = measure_all(blobs, store_folder, progress=progress.part(0.6, 0.8))
    store = BlobStore(Path(store_folder))
    progress.at(0.8, "Comparing with what was received")
    return compare_sources(
        source.model,
        new,
        facts,
        lambda one, other: deviation_of(store, one, other).value,
        partial(landmarks_of, store),
    )


def take_changes(
    current: Model, source: Source, new: Model, store_folder: str, steps: str = "", *,
    progress: Progress = SILENT,
) -> tuple[Model, Source, tuple[str, ...]]:  # fmt: skip
    """The current model with a source's changes taken in, the source as it is now, and what was not kept.

    Args:
        steps: text of a steps file. Where it is given, the source is taken as it is now and the steps are
            run on it; what was done by hand and is no step is not kept.

    Raises:
        KernelRefused: when a body can't be measured. MalformedFile: when the text is no steps file.
    """
    blobs = tuple(dict.fromkeys((*source.model.blobs(), *new.blobs(), *current.blobs())))
    facts = measure_all(blobs, store_folder, progress=progress)
    model, base, notes = take_over(current, source.model, new, facts)
    assert new.provenance is not None
    if steps:
        model, notes = _by_steps(current, base, new, steps, BlobStore(Path(store_folder)), progress)
    return model, replace(source, provenance=new.provenance, model=base), notes


def _by_steps(
    current: Model, base: Model, new: Model, steps: str, store: BlobStore, progress: Progress
) -> tuple[Model, tuple[str, ...]]:
    """The source as it is now, under the ids its items have had, with the steps run on it."""
    fresh = replace(current, products=base.products, roots=base.roots, provenance=new.provenance,
                    notes=new.notes)  # fmt: skip
    model, outcomes = run_steps(fresh, steps_from_text(steps), store, progress=progress)
    return model, tuple(
        f"{outcome.what}, {outcome.items}: {outcome.why}"
        for outcome in outcomes
        if outcome.outcome != "done"
    )


def resolve_missing(
    model: Model, folder: str, store_folder: str, *, progress: Progress = SILENT
) -> tuple[Model, int]:
    """The model with missing files that a folder holds read into their places, and how many were found.

    Raises:
        InputError: when a file is there and can't be read.
    """
    store = BlobStore(Path(store_folder))
    placed = 0
    for product in progress.each(unresolved(model), "Looking for missing files"):
        grafted = read_component(model, product.id, store, (folder,))
        if grafted is not None:
            model, placed = grafted, placed + 1
    if model.provenance is not None:
        files = tuple((p, digest or sha256_of(p)) for p, digest in model.provenance.files)
        notes = tuple(
            n
            for n in model.notes
            if n.code != "file-missing" or n.where in {p.label for p in unresolved(model)}
        )
        model = replace(model, provenance=replace(model.provenance, files=files), notes=notes)
    return model, placed
