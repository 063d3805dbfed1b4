"""What is in a file."""

from __future__ import annotations

from typing import Any

from gondrel.core.model.notes import with_measured_notes
from gondrel.core.reports.contract import inspect_object
from gondrel.core.service.beside import measuring_beside
from gondrel.core.service.intake import receive_by
from gondrel.core.service.receive import measure_all
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work import SILENT, Progress

__all__ = ["inspect_command"]


def inspect_command(
    path: str, options: ReceiveOptions, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel inspect``. Raises InputError, KernelError, UsageError."""
    with measuring_beside(store, progress.part(0.0, 0.8)) as reading:
        model = receive_by(path, store, options, progress=reading)
        facts = measure_all(model.blobs(), store, progress=progress.part(0.8, 1.0))
    return inspect_object(with_measured_notes(model, facts), facts)
