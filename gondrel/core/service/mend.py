"""Mend: every mend that cures something, tried, measured, recorded."""

from __future__ import annotations

from collections.abc import Collection
from pathlib import Path

from gondrel.core.mends.planner import mend_model
from gondrel.core.model.findings import Mended
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.mend_mesh import mend_meshes
from gondrel.core.work import SILENT, Progress

__all__ = ["mend"]


def mend(
    model: Model,
    only: Collection[str],
    safe: bool,
    tolerance: float,
    store_folder: str,
    *,
    progress: Progress = SILENT,
) -> tuple[Model, tuple[Mended, ...]]:
    """The model mended, and what came of every mend that was tried; meshes too where all are asked for.

    Args:
        only: codes of mends or of the checks they cure, none for all; safe: only what keeps the shape.
        tolerance: how far apart edges are that belong together, mm.

    Raises:
        KernelRefused: when a body can't be measured.
    """
    told: tuple[Mended, ...] = ()
    if not only or "F701" in only or "R201" in only:
        model, texts = mend_meshes(model, store_folder, progress=progress.part(0.0, 0.2))
        told = tuple(
            Mended(
                "R201", "Mend mesh", text.partition(":")[0], "", "mended", text.partition(": ")[2], (), ()
            )
            for text in texts
        )
    mended, more = mend_model(
        model,
        BlobStore(Path(store_folder)),
        only=only,
        safe=safe,
        tolerance=tolerance,
        progress=progress.part(0.2, 1.0),
    )
    return mended, (*told, *more)
