"""Structure proposed, and steps run again."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from gondrel.core.arrange.steps.file import read_steps
from gondrel.core.arrange.steps.runner import run_steps
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.store import BlobStore
from gondrel.core.reports.arranged import left_object, proposal_object, step_object
from gondrel.core.service.arrange import how_much, propose_structure, stood_where, take_structure
from gondrel.core.service.commands.outcome import sent_object
from gondrel.core.service.intake import receive_by
from gondrel.core.service.send import send
from gondrel.core.service.settings import ReceiveOptions
from gondrel.core.work import SILENT, Progress

__all__ = ["arrange_command"]


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
        result |= sent_object(model, sent)
    return result
