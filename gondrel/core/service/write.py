"""Write a model as one of the targets, as bytes."""

from __future__ import annotations

from collections.abc import Mapping

from gondrel.core.formats.registry import target
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["write_model"]


def write_model(
    model: Model,
    kind: str,
    settings: SendSettings,
    store: BlobStore,
    facts: Mapping[str, BodyFacts],
    *,
    name: str,
    progress: Progress = SILENT,
) -> bytes:
    """The file of a model as bytes.

    Raises:
        UsageError: for an unknown kind. CannotExpress, KernelRefused: as the writer says.
    """
    form, chosen = target(kind)
    return form.writes(model, chosen, settings, store, facts, name=name, progress=progress)
