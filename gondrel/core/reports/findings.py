"""What checks found, for people: by kind with the worst figure, and every place with its measure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from gondrel.core.model.findings import CheckReport, Finding, Mended, Severity
from gondrel.core.model.snapshot import Model
from gondrel.core.reports.figures import count_of
from gondrel.core.reports.markup import (
    Block,
    Cell,
    Heading,
    Marked,
    Paragraph,
    Table,
    folded,
    page,
)

__all__ = [
    "Kind",
    "changed_figures",
    "checked_blocks",
    "kinds_of",
    "make_findings_html",
    "measure_of",
    "mended_blocks",
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
    for code, findings in by_code.items():
        below = any(
            f.measured is not None and f.limit is not None and f.measured < f.limit for f in findings
        )
        ordered = sorted(findings, key=lambda f: f.measured or 0.0, reverse=not below)
        products = dict.fromkeys(f.product for f in ordered if f.product in model.by_id)
        parts = tuple(model.product(key).label for key in products)
        first = ordered[0]
        kinds.append(Kind(code, first.title, first.severity, tuple(ordered), measure_of(first), parts))
    return kinds


def checked_blocks(report: CheckReport | None, model: Model, heading: str) -> list[Block]:
    """A section on what is known to be wrong: one row for each kind of finding."""
    blocks: list[Block] = [Heading(heading)]
    if report is None:
        return [*blocks, Paragraph(("It was not checked.",))]
    looked = sum(count for _, count in report.examined)
    limits = report.limits
    text = (
        f"{looked:,} faces, edges and vertices examined; sound within {limits.gap:g} mm "
        f"(gaps), {limits.short:g} mm (edges, faces), {limits.tolerance:g} mm (tolerances)"
    )
    blocks.append(Paragraph((text,), is_quiet=True))
    if not looked:
        return [*blocks, Paragraph(("There was nothing to examine.",))]
    rows: list[tuple[Cell, ...]] = [
        (
            Marked(_WORDS[kind.severity.value], kind.severity.value),
            f"{kind.title} ({kind.code})",
            str(len(kind.findings)),
            kind.worst,
            ", ".join(kind.parts[:_PARTS])
            + (f" and {len(kind.parts) - _PARTS} more" if len(kind.parts) > _PARTS else ""),
        )
        for kind in kinds_of(report, model)
    ]
    if not rows:
        return [*blocks, Paragraph(("Nothing was found.",))]
    return [*blocks, Table(tuple(rows), ("", "What", "Places", "Worst", "Parts"))]


def changed_figures(
    before: Mapping[str, float], after: Mapping[str, float]
) -> list[tuple[str, float, float]]:
    """The figures that a mend changed, each before and after."""
    return [
        (key, before.get(key, 0.0), value)
        for key, value in after.items()
        if abs(value - before.get(key, 0.0)) > _SAME * max(abs(value), 1.0)
    ]


def mended_blocks(mended: Sequence[Mended]) -> list[Block]:
    """A section on what was mended: one row for each mend that changed something."""
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
            f"{each.title} ({each.code})", each.product, each.outcome, each.why, ", ".join(figures),
        ))  # fmt: skip
    head = ("Mend", "Part", "Outcome", "How far", "Figures (mm, mm\u00b2, mm\u00b3)")
    return [Heading("What was mended before sending"), Table(tuple(rows), head)]


def make_findings_html(
    title: str, model: Model, report: CheckReport, helps: Mapping[str, tuple[str, str]], made: str
) -> str:
    """All findings as one HTML page: by kind, with why it matters, what mends it, and every place.

    Args:
        helps: why and cure by code; made: when, and by whom.
    """
    names = {body.id: body.name for _, body in model.bodies()}
    blocks: list[Block] = [Heading(title, 1), Paragraph((made,), is_quiet=True)]
    blocks += checked_blocks(report, model, "Found")
    for kind in kinds_of(report, model):
        why, cure = helps.get(kind.code, ("", ""))
        blocks += [Heading(f"{kind.title} ({kind.code})"), Paragraph((f"{why} {cure}".strip(),))]
        rows = [(_whose(model, names, f), f.text, measure_of(f), _place(f)) for f in kind.findings]
        shown, more = folded(rows)
        blocks.append(Table(tuple(shown), ("Part", "What", "Measured", "Where, mm in the body's frame")))
        if more:
            blocks.append(Paragraph((f"and {count_of(more, 'place')} more",), is_quiet=True))
    for code, why in report.failed:
        blocks.append(Paragraph((f"{code} could not run: {why}",)))
    return page(title, blocks)


def _whose(model: Model, names: Mapping[str, str], finding: Finding) -> str:
    product = model.by_id.get(finding.product)
    label = product.label if product is not None else ""
    body = names.get(finding.body, "")
    return f"{label}, {body}" if body and body != label else label


def _place(finding: Finding) -> str:
    parts = [
        f"{word} {number + 1}"
        for word, number in (("face", finding.face), ("edge", finding.edge), ("vertex", finding.vertex))
        if number >= 0
    ]
    if finding.point is not None:
        parts.append("(" + ", ".join(f"{v:,.3f}" for v in finding.point) + ")")
    return " ".join(parts)
