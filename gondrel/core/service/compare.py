"""Compare any two models or files: the ledger of the proof, material added and removed, what was moved."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from gondrel.core.carriage.matching import match_models
from gondrel.core.carriage.proof import prove_models
from gondrel.core.comparing.differences import differences_of
from gondrel.core.kernel.derive import edge_spots_of, landmarks_of, spots_of
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.reports.compared import differences_object
from gondrel.core.reports.contract import proof_object
from gondrel.core.service.intake import receive_by
from gondrel.core.service.messages import ComparedModels
from gondrel.core.service.prove import deviations_of
from gondrel.core.service.receive import measure_all
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work import SILENT, Progress

__all__ = ["compare_command", "compare_models", "compare_with_file"]


def compare_models(
    before: Model, after: Model, store_folder: str, *, progress: Progress = SILENT
) -> ComparedModels:
    """Compare the second model with the first. Raises InputError, KernelRefused."""
    store = BlobStore(Path(store_folder))
    after = replace(after)  # the proof tells the two apart by identity
    keys = tuple(dict.fromkeys((*before.blobs(), *after.blobs())))
    facts = measure_all(keys, store_folder, progress=progress.part(0.0, 0.2))
    landmarks = partial(landmarks_of, store)
    proof = prove_models(
        before, after, facts, spots=partial(spots_of, store), edge_spots=partial(edge_spots_of, store),
        landmarks=landmarks, measure=deviations_of(store, progress.part(0.2, 0.6)),
    )  # fmt: skip
    matching = match_models(before, after, facts, landmarks)
    rest = progress.part(0.6, 1.0)
    return ComparedModels(
        after, proof, differences_of(before, after, matching, facts, store, progress=rest)
    )


def compare_with_file(
    before: Model, path: str, options: ReceiveOptions, store_folder: str, *, progress: Progress = SILENT
) -> ComparedModels:
    """Read a file raw and compare it with a model. Raises InputError, KernelRefused."""
    after = receive_by(path, store_folder, options, progress=progress.part(0.0, 0.4))
    return compare_models(before, after, store_folder, progress=progress.part(0.4, 1.0))


def compare_command(
    before: str, after: str, options: ReceiveOptions, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel compare``. Raises InputError, KernelError, UsageError."""
    first = receive_by(before, store, options, progress=progress.part(0.0, 0.3))
    compared = compare_with_file(first, after, options, store, progress=progress.part(0.3, 1.0))
    return {**proof_object(compared.proof), **differences_object(compared.differences)}
