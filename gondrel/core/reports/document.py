"""The report of a crossing as one HTML file: what was received, foreseen and proved, part by part.

Verdicts are told by word and sign as well as colour, so that it reads when printed in black and
white. Pictures are inside the file. The markup keeps to what simple renderers know, so that the
same text serves for printing.
"""

from __future__ import annotations

import base64
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from html import escape

from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.ledger import Compared, Proof
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.findings import CheckReport, Mended
from gondrel.core.model.mass import totals_of
from gondrel.core.model.snapshot import Model
from gondrel.core.reports.figures import Figures, relative, size_of_file
from gondrel.core.reports.findings import checked_lines, mended_lines
from gondrel.core.reports.markup import MOST, STYLE, folded, table, verdict
from gondrel.core.reports.other import other_sentences

__all__ = ["Picture", "ReportSource", "make_html"]


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture of one side: its caption and PNG bytes."""

    caption: str
    png: bytes


@dataclass(frozen=True, slots=True)
class ReportSource:
    """Everything a report is made from.

    Args:
        sent_path: the file that was sent, "" before the first send.
        facts: measures of the bodies of the model by hash.
        problems: what went wrong with single bodies, in words.
        checked: what checks found on the model, None when it was not checked; mended: what came of mends.
    """

    title: str
    model: Model
    facts: Mapping[str, BodyFacts]
    sent_path: str = ""
    sent_bytes: int = 0
    forecast: Forecast | None = None
    proof: Proof | None = None
    pictures: Sequence[Picture] = ()
    author: str = ""
    organisation: str = ""
    made: str = ""
    problems: Sequence[str] = ()
    checked: CheckReport | None = None
    mended: Sequence[Mended] = ()


def make_html(source: ReportSource, figures: Figures) -> str:
    """The report as the text of one HTML file."""
    parts = [
        "<!DOCTYPE html><html><head><meta charset='utf-8'>",
        f"<title>{escape(source.title)}</title><style>{STYLE}</style></head><body>",
        *_head(source),
        *_pictures(source),
        *_received(source, figures),
        *mended_lines(source.mended),
        *checked_lines(source.checked, source.model, "What is known to be wrong with it"),
        *_forecast(source),
        *_proof(source, figures),
        *_parts(source, figures),
        "</body></html>",
    ]
    return "\n".join(parts)


def _head(source: ReportSource) -> list[str]:
    by = ", ".join(t for t in (source.author, source.organisation) if t)
    about = " \u00b7 ".join(t for t in (source.made, by) if t)
    lines = [f"<h1>{escape(source.title)}</h1>", f"<p class='quiet'>{escape(about)}</p>"]
    proof = source.proof
    if proof is None:
        lines.append("<p>Nothing was sent yet; this report says what was received.</p>")
        return lines
    lost = sum(e.verdict == "lost" for e in proof.ledger.entries)
    altered = sum(e.verdict == "altered" for e in proof.ledger.entries)
    said = (
        f"{lost} kinds of things lost, {altered} altered" if lost or altered else "everything came across"
    )
    unsaid = len(proof.unannounced)
    announced = "all of it was announced before sending" if not unsaid else f"{unsaid} not announced"
    tail = f"; {announced}" if lost or altered or unsaid else ""
    lines.append(f"<p>{verdict(proof.verdict)} &nbsp; {escape(said + tail)}.</p>")
    return lines


def _pictures(source: ReportSource) -> list[str]:
    if not source.pictures:
        return []
    cells = []
    for picture in source.pictures:
        data = base64.b64encode(picture.png).decode("ascii")
        width = 560 // len(source.pictures)
        image = f"<img width='{width}' alt='{escape(picture.caption)}' src='data:image/png;base64,{data}'>"
        cells.append(f"{image}<br><span class='quiet'>{escape(picture.caption)}</span>")
    return [table([cells])]


def _received(source: ReportSource, figures: Figures) -> list[str]:
    model = source.model
    rows: list[tuple[str, str]] = []
    if model.provenance is not None:
        card = model.provenance.file
        writer = card.written_by
        who = ", ".join(t for t in (writer.author, writer.organisation) if t)
        rows += [
            ("File", card.path.rsplit("/", 1)[-1]),
            ("Format", f"{card.label}, {card.length_unit or 'no unit given'}"),
            ("Size", size_of_file(card.bytes)),
            ("Written by", " \u00b7 ".join(t for t in (writer.system, writer.date, who) if t)),
            *(
                (label, text)
                for label, text in (
                    ("Described as", writer.description),
                    ("Authorised by", writer.authorisation),
                )
                if text
            ),
            ("SHA-256", model.provenance.sha256),
            ("Received", model.provenance.received),
        ]
    placed = sum(len(model.product(p.product).bodies) for p in model.walk() if p.product in model.by_id)
    bodies = sum(1 for _ in model.bodies())
    rows.append(("Holds", f"{len(model.products)} products in {model.depth} levels, "
                          f"{bodies} bodies, {placed} in place"))  # fmt: skip
    totals = totals_of(model, source.facts)
    for root in model.roots:
        total = totals.get(root)
        if total is not None and total.bbox is not None:
            what = f"{figures.volume(total.volume)}, {figures.box(total.bbox)}"
            rows.append((f"Size of {model.product(root).label}", what))
    lines = ["<h2>What was received</h2>", table([(label, escape(value)) for label, value in rows])]
    notes = [f"{n.where + ': ' if n.where else ''}{n.text}" for n in model.notes]
    notes += source.problems
    if notes:
        some, more = folded(notes)
        some += [f"and {more} more"] if more else []
        shown = "".join(f"<li>{escape(text)}</li>" for text in some)
        lines.append(f"<p>Notes on reading:</p><ul>{shown}</ul>")
    return lines


def _forecast(source: ReportSource) -> list[str]:
    if source.forecast is None:
        return []
    rows = []
    for thing, fate, why, items in source.forecast.groups():
        if fate != "carried":
            count = sum(item.weight for item in items)
            named = escape(", ".join(item.path for item in items[:6]))
            more = f" and {len(items) - 6} more" if len(items) > 6 else ""
            rows.append((escape(thing), verdict(fate), str(count), escape(why), named + more))
    lines = [f"<h2>Forecast for {escape(source.forecast.target)}</h2>"]
    if not rows:
        return [*lines, "<p>Everything this model has was expected to be carried.</p>"]
    return [*lines, table(rows, ("Thing", "Fate", "Count", "Why", "Items"))]


def _proof(source: ReportSource, figures: Figures) -> list[str]:
    proof = source.proof
    if proof is None:
        return []
    name = source.sent_path.rsplit("/", 1)[-1]
    lines = [f"<h2>Proof of {escape(name)}</h2>"]
    lines.append(f"<p class='quiet'>{size_of_file(source.sent_bytes)}, read back from the written file</p>")
    rows = []
    for entry in proof.ledger.entries:
        if entry.items:
            said = {True: "", False: "not announced", None: ""}[entry.announced]
            rows.append((escape(entry.thing), escape(entry.before), escape(entry.after),
                         verdict(entry.verdict), said))  # fmt: skip
    lines.append(table(rows, ("Thing", "Before", "After", "Verdict", "")))
    lines.append(
        f"<p>Largest deviation {figures.deviation(proof.max_deviation)}; largest volume error "
        f"{relative(proof.max_volume_error)} relative; largest shift {figures.deviation(proof.max_shift)}. "
        f"<span class='quiet'>Method: {escape(proof.method)}.</span></p>"
    )
    told = (*proof.witness, *other_sentences(proof.other))
    lines += [f"<p class='quiet'>{escape(line)}</p>" for line in told]
    troubled = [c for e in proof.ledger.entries for c in e.items if c.verdict not in ("carried",)]
    if troubled:
        lines.append("<h2>What did not come across, and why</h2>")
        shown = [_compared(c) for c in troubled[: MOST * 5]]
        lines.append(table(shown, ("Item", "Before", "After", "Verdict", "Why")))
        if len(troubled) > MOST * 5:
            lines.append(f"<p>and {len(troubled) - MOST * 5} more items</p>")
    return lines


def _compared(compared: Compared) -> tuple[str, ...]:
    said = {True: "announced", False: "not announced", None: ""}[compared.announced]
    why = ", ".join(t for t in (compared.detail, said) if t)
    item, what = compared.item.path, compared.item.what
    item = item if item.endswith(what) else f"{item} ({what})"
    return (escape(item), escape(compared.item.text), escape(compared.after or "nothing"),
            verdict(compared.verdict), escape(why))  # fmt: skip


def _parts(source: ReportSource, figures: Figures) -> list[str]:
    model = source.model
    rows = []
    for product in model.products:
        known = [source.facts[b.blob] for b in product.bodies if b.blob in source.facts]
        if not known:
            continue
        total = sum(f.volume for f in known)
        density = product.material.density if product.material else None
        rows.append((escape(product.label), escape(product.number), escape(product.revision),
                     str(model.quantities[product.id]), escape(figures.volume(total)),
                     escape(figures.area(sum(f.area for f in known))),
                     escape(product.material.name if product.material else ""),
                     escape(figures.mass(total, density))))  # fmt: skip
    header = ("Part", "Number", "Rev", "Qty", "Volume", "Area", "Material", "Mass")
    return ["<h2>Parts</h2>", table(rows, header)] if rows else []
