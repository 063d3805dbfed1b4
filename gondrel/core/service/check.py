"""Check: every check on every body and on the structure."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields, replace
from pathlib import Path

from gondrel.core.checks.catalogue import all_checks
from gondrel.core.checks.runner import check_model
from gondrel.core.mends.planner import plan_mends
from gondrel.core.model.findings import CheckLimits, CheckReport
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.messages import CheckHelp
from gondrel.core.service.values import check_keys, number_of
from gondrel.core.work import SILENT, Progress

__all__ = ["check", "check_helps", "limits_from"]


def limits_from(values: Mapping[str, str]) -> CheckLimits:
    """Limits of checks from KEY=VALUE pairs: gap, short, tolerance, degree, poles, knots, kink, size_box.

    Raises:
        UsageError: for an unknown key or a value that is no number.
    """
    check_keys(values, [f.name for f in fields(CheckLimits)])
    said = CheckLimits()
    found = {
        f.name: type(getattr(said, f.name))(number_of(values, f.name, getattr(said, f.name), least=0.0))
        for f in fields(CheckLimits)
    }
    return CheckLimits(**found)


def check(
    model: Model, values: Mapping[str, str], store_folder: str, *, progress: Progress = SILENT
) -> CheckReport:
    """Check a model by limits given as text, and plan the mends there are. Raises UsageError."""
    report = check_model(model, BlobStore(Path(store_folder)), limits_from(values), progress=progress)
    return replace(report, mends=plan_mends(report.findings))


def check_helps(*, progress: Progress = SILENT) -> tuple[CheckHelp, ...]:
    """What each check looks for, why it matters and what mends it."""
    return tuple(
        CheckHelp(c.code, c.title, c.severity.value, c.why, c.cure, c.source) for c in all_checks()
    )
