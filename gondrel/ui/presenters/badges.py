"""What the stations of the route band wear: how much waits there, and how grave it is."""

from __future__ import annotations

from collections.abc import Collection

from gondrel.core.model import Model
from gondrel.core.model.findings import CheckReport, Severity
from gondrel.core.service.messages import Forecast, Sent
from gondrel.ui.presenters.cells import summary

__all__ = ["Badge", "check_badge", "prove_badge", "receive_badge", "send_badge"]

Badge = tuple[int, str]
"""How many things wait, and the verdict by which they are coloured."""


def receive_badge(model: Model | None, problems: Collection[str]) -> Badge | None:
    """Kinds of notes of the model, and bodies that could not be shown."""
    waiting = len(problems) + (len({n.code for n in model.notes}) if model else 0)
    return (waiting, "lost" if problems else "altered") if waiting else None


def check_badge(report: CheckReport | None) -> Badge | None:
    """Faults and doubts of the last checks."""
    if report is None:
        return None
    faults, doubts = report.count(Severity.FAULT), report.count(Severity.DOUBT)
    return (faults + doubts, "lost" if faults else "altered") if faults + doubts else None


def send_badge(forecast: Forecast | None, indifferent: Collection[str] = ()) -> Badge | None:
    """Groups of things that the forecast sees altered or lost, and that matter to the recipient."""
    groups = forecast.groups() if forecast is not None else ()
    foreseen = [g for g in groups if g[1] != "carried" and g[0] not in indifferent]
    if not foreseen:
        return None
    return len(foreseen), "lost" if any(g[1] == "lost" for g in foreseen) else "altered"


def prove_badge(sent: Sent | None) -> Badge | None:
    """Things that did not come back as they were."""
    entries = sent.proof.ledger.entries if sent is not None else ()
    troubled = [e for e in entries if e.verdict in ("lost", "altered")]
    return (len(troubled), summary(sent.proof)[0]) if sent is not None and troubled else None
