"""What checks found, for people: by kind with the worst figure, and every place with its measure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from html import escape

from gondrel.core.model.findings import CheckReport, Finding, Mended, Severity
from gondrel.core.model.snapshot import Model
from gondrel.core.reports.figures import count_of
from gondrel.core.reports.markup import STYLE, folded, table, verdict

__all__ = [
    "Kind",
    "changed_figures",
    "checked_lines",
    "kinds_of",
    "make_findings_html",
    "measure_of",
    "mended_lines",
]

_WORDS = {"fault": "lost", "doubt": "altered", "note": "unproved"}
"""Severities are drawn with the signs of the verdicts of the same weight."""

_UNITS = {"mm2": "mm\u00b2", "mm3": "mm\u00b3", "deg": "\u00b0"}
_PARTS = 6
_SAME = 1e-9
"""Relative difference below which a figure did not change."""


@dataclass(frozen=True, slots=True)
class Kind:
    """All findings of one kind: the worst figure in words, and the parts they are on."""

    code: str
    title: str
    severity: Severity
    findings: tuple[Finding, ...]
    worst: str
    parts: tuple[str, ...]


def measure_of(finding: Finding) -> str:
    """What was measured with its unit and limit; empty where nothing was."""
    if finding.measured is None:
        return ""
    unit = _UNITS.get(finding.unit, finding.unit)
    limit = f" (limit {finding.limit:g})" if finding.limit is not None else ""
    return f"{finding.measured:,.4g} {unit}".strip() + limit


def kinds_of(report: CheckReport, model: Model) -> list[Kind]:
    """Findings by kind, the gravest first, each with the worst at its head."""
    by_code: dict[str, list[Finding]] = {}
    for finding in report.findings:
        by_code.setdefault(finding.code, []).append(finding)
    kinds = []
    for code, found in by_code.items():
        below = any(f.measured is not None and f.limit is not None and f.measured < f.limit for f in found)
        ordered = sorted(found, key=lambda f: f.measured or 0.0, reverse=not below)
        products = dict.fromkeys(f.product for f in ordered if f.product in model.by_id)
        parts = tuple(model.product(key).label for key in products)
        first = ordered[0]
        kinds.append(Kind(code, first.title, first.severity, tuple(ordered), measure_of(first), parts))
    return kinds


def checked_lines(report: CheckReport | None, model: Model, heading: str) -> list[str]:
    """A section on what is known to be wrong: markup, one row for each kind of finding."""
    lines = [f"<h2>{escape(heading)}</h2>"]
    if report is None:
        return [*lines, "<p>It was not checked.</p>"]
    looked = sum(count for _, count in report.examined)
    limits = report.limits
    lines.append(
        f"<p class='quiet'>{looked:,} faces, edges and vertices examined; sound within {limits.gap:g} mm "
        f"(gaps), {limits.short:g} mm (edges, faces), {limits.tolerance:g} mm (tolerances)</p>"
    )
    if not looked:
        return [*lines, "<p>There was nothing to examine.</p>"]
    rows = [
        (
            verdict(_WORDS[kind.severity.value], kind.severity.value),
            escape(f"{kind.title} ({kind.code})"),
            str(len(kind.findings)),
            escape(kind.worst),
            escape(", ".join(kind.parts[:_PARTS]))
            + (f" and {len(kind.parts) - _PARTS} more" if len(kind.parts) > _PARTS else ""),
        )
        for kind in kinds_of(report, model)
    ]
    if not rows:
        return [*lines, "<p>Nothing was found.</p>"]
    return [*lines, table(rows, ("", "What", "Places", "Worst", "Parts"))]


def changed_figures(
    before: Mapping[str, float], after: Mapping[str, float]
) -> list[tuple[str, float, float]]:
    """The figures that a mend changed, each before and after."""
    return [
        (key, before.get(key, 0.0), value)
        for key, value in after.items()
        if abs(value - before.get(key, 0.0)) > _SAME * max(abs(value), 1.0)
    ]


def mended_lines(mended: Sequence[Mended]) -> list[str]:
    """A section on what was mended: markup, one row for each mend that changed something."""
    done = [each for each in mended if each.outcome in ("mended", "improved")]
    if not done:
        return []
    rows = []
    for each in done:
        figures = [
            f"{key} {a:,.7g} to {b:,.7g}"
            for key, a, b in changed_figures(dict(each.before), dict(each.after))
        ]
        rows.append((
            escape(f"{each.title} ({each.code})"), escape(each.product), escape(each.outcome),
            escape(each.why), escape(", ".join(figures)),
        ))  # fmt: skip
    head = ("Mend", "Part", "Outcome", "How far", "Figures (mm, mm\u00b2, mm\u00b3)")
    return ["<h2>What was mended before sending</h2>", table(rows, head)]


def make_findings_html(
    title: str, model: Model, report: CheckReport, helps: Mapping[str, tuple[str, str]], made: str
) -> str:
    """All findings as one HTML page: by kind, with why it matters, what mends it, and every place.

    Args:
        helps: why and cure by code; made: when, and by whom.
    """
    names = {body.id: body.name for _, body in model.bodies()}
    parts = [
        "<!DOCTYPE html><html><head><meta charset='utf-8'>",
        f"<title>{escape(title)}</title><style>{STYLE}</style></head><body>",
        f"<h1>{escape(title)}</h1><p class='quiet'>{escape(made)}</p>",
        *checked_lines(report, model, "Found"),
    ]
    for kind in kinds_of(report, model):
        why, cure = helps.get(kind.code, ("", ""))
        parts.append(f"<h2>{escape(kind.title)} ({kind.code})</h2>")
        parts.append(f"<p>{escape(f'{why} {cure}'.strip())}</p>")
        rows = [
            (escape(_whose(model, names, f)), escape(f.text), escape(measure_of(f)), escape(_place(f)))
            for f in kind.findings
        ]
        shown, more = folded(rows)
        parts.append(table(shown, ("Part", "What", "Measured", "Where, mm in the body's frame")))
        if more:
            parts.append(f"<p class='quiet'>and {count_of(more, 'place')} more</p>")
    for code, why in report.failed:
        parts.append(f"<p>{escape(code)} could not run: {escape(why)}</p>")
    return "\n".join([*parts, "</body></html>"])


def _whose(model: Model, names: Mapping[str, str], finding: Finding) -> str:
    product = model.by_id.get(finding.product)
    label = product.label if product is not None else ""
    body = names.get(finding.body, "")
    return f"{label}, {body}" if body and body != label else label


def _place(finding: Finding) -> str:
    told = [
        f"{word} {number + 1}"
        for word, number in (("face", finding.face), ("edge", finding.edge), ("vertex", finding.vertex))
        if number >= 0
    ]
    if finding.point is not None:
        told.append("(" + ", ".join(f"{v:,.3f}" for v in finding.point) + ")")
    return " ".join(told)
