"""Findings grouped by kind, and the parts they concern, for the Check sheet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from gondrel.core.model import Model
from gondrel.core.model.findings import CheckReport, Finding, Severity
from gondrel.core.reports.figures import count_of
from gondrel.core.reports.findings import Kind, kinds_of

__all__ = [
    "SEVERITY_VERDICT",
    "PartLine",
    "kind_line",
    "kinds_shown",
    "known_line",
    "line_of",
    "parts_of",
    "summary_of",
]

SEVERITY_VERDICT = {"fault": "lost", "doubt": "altered", "note": "unproved"}
"""How severities are drawn: by the marks of the verdicts of the same weight."""


def kinds_shown(
    report: CheckReport,
    model: Model,
    severities: frozenset[Severity],
    products: frozenset[str] = frozenset(),
) -> list[Kind]:
    """Findings of some severities, of some products or of all, by kind."""
    wanted = tuple(
        f for f in report.findings if f.severity in severities and (not products or f.product in products)
    )
    return kinds_of(replace(report, findings=wanted), model)


def kind_line(kind: Kind) -> str:
    """How many findings of a kind there are and the worst figure."""
    text = count_of(len(kind.findings), "place")
    if kind.worst and kind.findings[0].unit and kind.severity is not Severity.NOTE:
        text += f", worst {kind.worst}"
    return text


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
    counts_text = ", ".join(count_of(count, word) for count, word in counts if count)
    pairs.append(("Found", counts_text or "nothing"))
    if report.failed:
        pairs.append(("Not run", count_of(len(report.failed), "check")))
    return pairs


@dataclass(frozen=True, slots=True)
class PartLine:
    """How one part came out: its product, whether something grave was found, and in words."""

    product: str
    severity: Severity | None
    text: str


def parts_of(report: CheckReport, model: Model) -> list[PartLine]:
    """Every part that was examined, the worst first; one of which nothing was examined is not clean."""
    examined = dict(report.examined)
    by_product: dict[str, list[Finding]] = {}
    for finding in report.findings:
        by_product.setdefault(finding.product, []).append(finding)
    lines = []
    for product in model.products:
        count = examined.get(product.id, 0)
        if not product.bodies:
            continue
        counts = {s: sum(f.severity is s for f in by_product.get(product.id, ())) for s in Severity}
        worst = next((s for s in (Severity.FAULT, Severity.DOUBT) if counts[s]), None)
        counts_text = ", ".join(count_of(counts[s], s.value) for s in Severity if counts[s])
        state = (
            counts_text
            if worst
            else "not examined"
            if not count
            else f"clean{', ' + counts_text if counts_text else ''}"
        )
        text = f"{product.label}: {state}, {count:,} examined"
        lines.append(PartLine(product.id, worst if count else Severity.DOUBT, text))
    order = {Severity.FAULT: 0, Severity.DOUBT: 1, None: 2}
    return sorted(lines, key=lambda line: order[line.severity])


def known_line(report: CheckReport | None) -> str:
    """What the receiver is told of faults that are known and remain.

    Example:
        >>> known_line(None)
        'Not checked before sending; the report says so.'
    """
    if report is None:
        return "Not checked before sending; the report says so."
    counts = [
        count_of(report.count(s), s.value) for s in (Severity.FAULT, Severity.DOUBT) if report.count(s)
    ]
    if not counts:
        return "Checked: no fault and no doubt remains."
    return f"Known to remain: {', '.join(counts)}; the report tells the receiver."
