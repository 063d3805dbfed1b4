"""Whole commands in one worker job each: typed values in, contract JSON objects out."""

from __future__ import annotations

from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from gondrel.core.arrange.scope import scoped
from gondrel.core.arrange.steps.file import read_steps
from gondrel.core.arrange.steps.runner import run_steps
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.findings import CheckLimits, MendWish
from gondrel.core.model.notes import GRAVE, with_measured_notes
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore, write_whole
from gondrel.core.recipients.card import card_or_none
from gondrel.core.recipients.learning import proposed_card
from gondrel.core.reports.arranged import left_object, proposal_object, step_object
from gondrel.core.reports.contract import (
    census_object,
    check_object,
    counts_object,
    forecast_list,
    inspect_object,
    mended_object,
    proof_object,
)
from gondrel.core.reports.recipients import expected_object, rehearsal_object
from gondrel.core.service.arrange import how_much, propose_structure, stood_where, take_structure
from gondrel.core.service.check import check
from gondrel.core.service.compare import compare_command
from gondrel.core.service.draw import draw_command, picture_command
from gondrel.core.service.features import features_command
from gondrel.core.service.handover import make_handover
from gondrel.core.service.intake import receive_by
from gondrel.core.service.measure import measure_command
from gondrel.core.service.mend import mend, named_faces, wish_for
from gondrel.core.service.messages import Sent
from gondrel.core.service.profile import profile_command
from gondrel.core.service.prove import prove_files
from gondrel.core.service.queries import asked_for
from gondrel.core.service.receive import measure_all
from gondrel.core.service.recipients import expect, rank_targets, rehearse_file, same_system
from gondrel.core.service.send import forecast_for, send
from gondrel.core.service.settings import MendOptions, ReceiveOptions
from gondrel.core.work import SILENT, Progress

__all__ = [
    "arrange_command",
    "check_command",
    "choose_command",
    "compare_command",
    "draw_command",
    "features_command",
    "inspect_command",
    "measure_command",
    "mend_command",
    "picture_command",
    "profile_command",
    "prove_command",
    "rehearse_command",
    "report_command",
    "send_command",
]


def inspect_command(
    path: str, options: ReceiveOptions, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel inspect``. Raises InputError, KernelError, UsageError."""
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.8))
    facts = measure_all(model.blobs(), store, progress=progress.part(0.8, 1.0))
    return inspect_object(with_measured_notes(model, facts), facts)


def check_command(
    path: str, options: ReceiveOptions, limits: CheckLimits, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel check``. Raises InputError, KernelError, UsageError."""
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.5))
    return check_object(model, check(model, limits, store, progress=progress.part(0.5, 1.0)))


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
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.3))
    chosen: tuple[str, ...] = ()
    if queries:
        model, chosen = scoped(model, asked_for(model, queries, store))
    if forecast_only:
        forecast = forecast_for(model, kind, settings, store, progress=progress.part(0.3, 1.0))
        result: dict[str, Any] = {"forecast": forecast_list(forecast), **census_object(model)}
    else:
        sent = send(model, out, kind, settings, store, progress=progress.part(0.3, 1.0))
        forecast, result = sent.forecast, _sent(model, sent)
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


def _sent(model: Model, sent: Sent) -> dict[str, Any]:
    """What was sent of a model, and how it came."""
    return {
        "sent": _sent_list(sent),
        "forecast": forecast_list(sent.forecast),
        "remarks": list(sent.forecast.remarks),
        "proof": proof_object(sent.proof),
        "remaining_faults": [
            {"code": n.code, "text": n.text, "where": n.where} for n in model.notes if n.code in GRAVE
        ],
        **census_object(model),
    }


def _sent_list(sent: Sent) -> list[dict[str, Any]]:
    return [{"path": p, "bytes": n} for p, n in ((sent.path, sent.bytes), *sent.companions)]


def arrange_command(
    path: str,
    out: str,
    kind: str,
    recover: bool,
    steps: str,
    options: ReceiveOptions,
    settings: SendSettings,
    store: str,
    *,
    progress: Progress = SILENT,
) -> dict[str, Any]:
    """The object of ``gondrel arrange``. Raises InputError, OutputError, UsageError, KernelError."""
    records = read_steps(steps) if steps else ()
    received = model = receive_by(path, store, options, progress=progress.part(0.0, 0.3))
    result: dict[str, Any] = {"proposal": None, "steps": [], "sent": [], "proof": None}
    if recover:
        proposal = propose_structure(model, store, progress=progress.part(0.3, 0.5))
        result["proposal"] = proposal_object(proposal)
        if out and proposal.changes:
            stood = stood_where(model, proposal, store, progress=progress.part(0.5, 0.6))
            result["proposal"]["stands"] = {
                "max_deviation": stood.deviation, "measured": stood.measured, "of": stood.of
            }  # fmt: skip
            _, model = take_structure(model, proposal, (), {})
    if records:
        model, outcomes = run_steps(
            model, records, BlobStore(Path(store)), progress=progress.part(0.6, 0.7)
        )
        result["steps"] = [step_object(each) for each in outcomes]
    if model is not received:
        before, after = how_much((received, model), store)
        result["figures"] = {"before": left_object(before), "after": left_object(after)}
    if out:
        sent = send(model, out, kind, settings, store, progress=progress.part(0.7, 1.0))
        result |= _sent(model, sent)
    return result


def mend_command(
    path: str,
    out: str,
    kind: str,
    wish: MendWish,
    options: ReceiveOptions,
    limits: CheckLimits,
    mending: MendOptions,
    settings: SendSettings,
    store: str,
    *,
    progress: Progress = SILENT,
) -> dict[str, Any]:
    """The object of ``gondrel mend``. Raises InputError, OutputError, UsageError, KernelError."""
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.2))
    before = check(model, limits, store, progress=progress.part(0.2, 0.4))
    wish = replace(wish, tolerance=mending.within, smooth=mending.smooth)
    if mending.faces:
        faces = named_faces(model, mending.faces)
        wish = replace(wish, only=wish.only or ("R114",), faces=faces)
    if mending.finding:
        wish = wish_for(before, mending.finding, wish)
    mended, outcomes = mend(model, wish, limits, store, progress=progress.part(0.4, 0.7))
    after = check(mended, limits, store, progress=progress.part(0.7, 0.8))
    sent = send(mended, out, kind, settings, store, progress=progress.part(0.8, 1.0))
    return {
        "mends": [mended_object(each) for each in outcomes],
        "check_before": counts_object(before),
        "check_after": counts_object(after),
        "sent": _sent_list(sent),
        "proof": proof_object(sent.proof),
    }


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


def prove_command(
    meant: str, returned: str, recipient: str, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel prove``. Raises InputError, KernelError, UsageError."""
    card = card_or_none(recipient)
    proof, model, back = prove_files(meant, returned, store, progress=progress)
    result = {**proof_object(proof), **census_object(model), "returned": census_object(back)}
    if card is not None:
        proposed, why = proposed_card(card, proof)
        result["card"] = {"key": card.key, "proposal": asdict(proposed), "changes": list(why)}
    return result
