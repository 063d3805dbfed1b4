"""Whole commands in one worker job each: plain values in, contract JSON objects out."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from gondrel.core.errors import InputError
from gondrel.core.model.notes import with_measured_notes
from gondrel.core.reports.contract import forecast_list, inspect_object, proof_object
from gondrel.core.service.prove import prove_files
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.service.send import forecast_for, send, settings_from
from gondrel.core.work import SILENT, Progress

__all__ = ["inspect_command", "prove_command", "send_command"]


def inspect_command(path: str, store: str, *, progress: Progress = SILENT) -> dict[str, Any]:
    """The object of ``gondrel inspect``. Raises InputError, KernelError."""
    model = receive(path, store, progress=progress.part(0.0, 0.8))
    facts = measure_all(model.blobs(), store, progress=progress.part(0.8, 1.0))
    return inspect_object(with_measured_notes(model, facts), facts)


def send_command(
    path: str,
    out: str,
    kind: str,
    settings: Mapping[str, str],
    forecast_only: bool,
    store: str,
    *,
    progress: Progress = SILENT,
) -> dict[str, Any]:
    """The object of ``gondrel send``. Raises InputError, OutputError, UsageError, KernelError."""
    chosen = settings_from(settings)
    model = receive(path, store, progress=progress.part(0.0, 0.3))
    forecast = forecast_for(model, kind, chosen, store)
    if forecast_only:
        return {"forecast": forecast_list(forecast), "remarks": list(forecast.remarks)}
    if Path(out).resolve() == Path(path).resolve():
        raise InputError("the file to send must not be the file received", file=out)
    sent = send(model, out, kind, chosen, store, progress=progress.part(0.3, 1.0))
    return {
        "sent": [{"path": p, "bytes": n} for p, n in ((sent.path, sent.bytes), *sent.beside)],
        "forecast": forecast_list(sent.forecast),
        "remarks": list(sent.forecast.remarks),
        "proof": proof_object(sent.proof),
    }


def prove_command(meant: str, returned: str, store: str, *, progress: Progress = SILENT) -> dict[str, Any]:
    """The object of ``gondrel prove``. Raises InputError, KernelError."""
    return proof_object(prove_files(meant, returned, store, progress=progress))
