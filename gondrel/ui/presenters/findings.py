"""Findings grouped by kind, and the parts they concern, for the Check sheet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from gondrel.core.model import Model
from gondrel.core.model.findings import CheckReport, Finding, Severity
from gondrel.core.reports.figures import count_of

__all__ = ["Group", "groups_of", "line_of", "summary_of"]


@dataclass(frozen=True, slots=True)
class Group:
    """All findings of one kind, the worst first.

    Args:
        text: how many there are and the worst figure.
    """

    code: str
    title: str
    severity: Severity
    findings: tuple[Finding, ...]
    text: str


def groups_of(
    report: CheckReport, severities: frozenset[Severity], products: frozenset[str] = frozenset()
) -> list[Group]:
    """Findings of some severities, of some products or of all, by kind."""
    kinds: dict[str, list[Finding]] = {}
    for finding in report.findings:
        if finding.severity in severities and (not products or finding.product in products):
            kinds.setdefault(finding.code, []).append(finding)
    return [_group(found) for found in kinds.values()]


def _group(found: list[Finding]) -> Group:
    first = found[0]
    smaller_is_worse = first.limit is not None and any(
        f.measured is not None and f.limit is not None and f.measured < f.limit for f in found
    )
    found = sorted(found, key=lambda f: f.measured or 0.0, reverse=not smaller_is_worse)
    text = count_of(len(found), "place")
    worst = found[0]
    if worst.measured is not None and worst.unit:
        unit = {"mm2": "mm\u00b2", "mm3": "mm\u00b3", "deg": "\u00b0"}.get(worst.unit, worst.unit)
        text += f", worst {worst.measured:.4g} {unit}"
        if worst.limit is not None:
            text += f" (limit {worst.limit:g})"
    return Group(first.code, first.title, first.severity, tuple(found), text)


def line_of(finding: Finding, labels: Mapping[str, str]) -> str:
    """A finding in one line: the part and what was found."""
    label = labels.get(finding.product, "")
    return f"{label}: {finding.text}" if label else finding.text


def summary_of(report: CheckReport, model: Model) -> list[tuple[str, str]]:
    """How much was examined and how much of it is sound."""
    grave = {f.product for f in report.findings if f.severity is not Severity.NOTE}
    examined = dict(report.examined)
    parts = [p for p in model.products if examined.get(p.id)]
    clean = sum(p.id not in grave for p in parts)
    pairs = [
        ("Examined", f"{sum(examined.values()):,} faces, edges and vertices" if examined else "nothing"),
        ("Clean", f"{clean} of {count_of(len(parts), 'part')}" if parts else "no part to examine"),
    ]
    counts = [
        (report.count(severity), word)
        for severity, word in (
            (Severity.FAULT, "fault"), (Severity.DOUBT, "doubt"), (Severity.NOTE, "note"),
        )
    ]  # fmt: skip
    told = ", ".join(count_of(count, word) for count, word in counts if count)
    pairs.append(("Found", told or "nothing"))
    if report.failed:
        pairs.append(("Not run", count_of(len(report.failed), "check")))
    return pairs
