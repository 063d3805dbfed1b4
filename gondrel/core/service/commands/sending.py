"""Writing a file in another form, with its forecast and its proof."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Any

from gondrel.core.arrange.scope import scoped
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.store import write_whole
from gondrel.core.recipients.card import card_or_none
from gondrel.core.reports.contract import census_object, forecast_list
from gondrel.core.reports.recipients import expected_object, rehearsal_object
from gondrel.core.service.beside import measuring_beside
from gondrel.core.service.commands.outcome import sent_object
from gondrel.core.service.handover import make_handover
from gondrel.core.service.intake import receive_by
from gondrel.core.service.queries import asked_for
from gondrel.core.service.recipients import expect, rank_targets, rehearse_file, same_system
from gondrel.core.service.send import forecast_for, send
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work import SILENT, Progress

__all__ = ["choose_command", "rehearse_command", "report_command", "send_command"]


def send_command(
    path: str,
    out: str,
    kind: str,
    options: ReceiveOptions,
    settings: SendSettings,
    forecast_only: bool,
    recipient: str,
    queries: tuple[str, ...],
    store: str,
    *,
    progress: Progress = SILENT,
) -> dict[str, Any]:
    """The object of ``gondrel send``. Raises InputError, OutputError, UsageError, KernelError."""
    card = card_or_none(recipient)
    chosen: tuple[str, ...] = ()
    with measuring_beside(store, progress.part(0.0, 0.3)) as reading:
        model = receive_by(path, store, options, progress=reading)
        if queries:
            model, chosen = scoped(model, asked_for(model, queries, store))
        if forecast_only:
            forecast = forecast_for(model, kind, settings, store, progress=progress.part(0.3, 1.0))
            result: dict[str, Any] = {"forecast": forecast_list(forecast), **census_object(model)}
        else:
            sent = send(model, out, kind, settings, store, progress=progress.part(0.3, 1.0))
            forecast, result = sent.forecast, sent_object(model, sent)
    if card is not None:
        result["recipient"] = expected_object(card, expect(model, card, kind, settings, store, forecast))
    result["remarks"] = [*chosen, *forecast.remarks]
    return result


def rehearse_command(
    path: str, key: str, recipient: str, kind: str, options: ReceiveOptions, settings: SendSettings,
    store: str, *, progress: Progress = SILENT,
) -> dict[str, Any]:  # fmt: skip
    """The object of ``gondrel rehearse``. Raises InputError, OutputError, UsageError, KernelError."""
    card = card_or_none(recipient)
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.3))
    made = rehearse_file(model, key, card, kind, settings, store, progress=progress.part(0.3, 1.0))
    return rehearsal_object(made, card)


def choose_command(
    path: str, recipient: str, options: ReceiveOptions, settings: SendSettings, store: str, *,
    progress: Progress = SILENT,
) -> dict[str, Any]:  # fmt: skip
    """The object of ``gondrel recipients choose``. Raises InputError, UsageError, KernelError."""
    card = card_or_none(recipient)
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.3))
    choices = rank_targets(model, card, settings, store, progress=progress.part(0.3, 1.0))
    rows = [{**asdict(choice), "harm": dict(choice.harm)} for choice in choices]
    return {"card": recipient or None, "same_system": same_system(model, card), "choices": rows}


def report_command(
    path: str, out: str, kind: str, recipient: str, options: ReceiveOptions, settings: SendSettings,
    checked: bool, author: str, store: str, *, progress: Progress = SILENT,
) -> dict[str, Any]:  # fmt: skip
    """The object of ``gondrel report``. Raises InputError, OutputError, UsageError, KernelError."""
    card = card_or_none(recipient)
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.2))
    data = make_handover(
        model, out, kind, card, settings, store, checked=checked, author=author,
        progress=progress.part(0.2, 1.0),
    )  # fmt: skip
    write_whole(Path(out), data)
    return {"sent": [{"path": out, "bytes": len(data)}]}
