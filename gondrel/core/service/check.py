"""Check: every check on every body and on the structure."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from gondrel.core.checks.catalogue import all_checks
from gondrel.core.checks.runner import check_model
from gondrel.core.mends.planner import plan_mends
from gondrel.core.model.findings import CheckLimits, CheckReport
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.messages import CheckHelp
from gondrel.core.work import SILENT, Progress

__all__ = ["check", "check_helps"]


def check(
    model: Model, limits: CheckLimits, store_folder: str, *, progress: Progress = SILENT
) -> CheckReport:
    """Check a model by limits, and plan the mends there are."""
    report = check_model(model, BlobStore(Path(store_folder)), limits, progress=progress)
    return replace(report, mends=plan_mends(report.findings))


def check_helps(*, progress: Progress = SILENT) -> tuple[CheckHelp, ...]:
    """What each check looks for, why it matters and what mends it."""
    return tuple(
        CheckHelp(c.code, c.title, c.severity.value, c.why, c.cure, c.source) for c in all_checks()
    )
