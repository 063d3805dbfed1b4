"""What is not sound in a file, and mending it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.findings import CheckLimits, MendWish
from gondrel.core.reports.contract import check_object, counts_object, mended_object, proof_object
from gondrel.core.service.check import check
from gondrel.core.service.commands.outcome import sent_list
from gondrel.core.service.intake import receive_by
from gondrel.core.service.mend import mend, named_faces, wish_for
from gondrel.core.service.send import send
from gondrel.core.service.settings import MendOptions, ReceiveOptions
from gondrel.core.work import SILENT, Progress

__all__ = ["check_command", "mend_command"]


def check_command(
    path: str, options: ReceiveOptions, limits: CheckLimits, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel check``. Raises InputError, KernelError, UsageError."""
    model = receive_by(path, store, options, progress=progress.part(0.0, 0.5))
    return check_object(model, check(model, limits, store, progress=progress.part(0.5, 1.0)))


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
        "sent": sent_list(sent),
        "proof": proof_object(sent.proof),
    }
