"""The report of a crossing as one HTML file: what was received, foreseen and proved, part by part.

Verdicts are told by word and sign as well as colour, so that it reads when printed in black and
white. Pictures are inside the file. The markup keeps to what simple renderers know, so that the
same text serves for printing.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.ledger import Compared, Proof
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.findings import CheckReport, Mended
from gondrel.core.model.mass import totals_of
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Fate, Verdict
from gondrel.core.model.views import View
from gondrel.core.reports.figures import Figures, relative, size_of_file
from gondrel.core.reports.findings import checked_blocks, mended_blocks
from gondrel.core.reports.markup import (
    MOST,
    Block,
    Bullets,
    Cell,
    Heading,
    Marked,
    Paragraph,
    Pictures,
    Table,
    folded,
    page,
    picture_of,
)
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
        views: named views; the dimensions kept on them are listed.
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
    views: Sequence[View] = ()


def make_html(source: ReportSource, figures: Figures) -> str:
    """The report as the text of one HTML file."""
    blocks = [
        *_head(source),
        *_pictures(source),
        *_received(source, figures),
        *mended_blocks(source.mended),
        *checked_blocks(source.checked, source.model, "What is known to be wrong with it"),
        *_forecast(source),
        *_proof(source, figures),
        *_parts(source, figures),
        *_dimensions(source),
    ]
    return page(source.title, blocks)


def _head(source: ReportSource) -> list[Block]:
    by = ", ".join(t for t in (source.author, source.organisation) if t)
    about = " \u00b7 ".join(t for t in (source.made, by) if t)
    blocks: list[Block] = [Heading(source.title, 1), Paragraph((about,), is_quiet=True)]
    proof = source.proof
    if proof is None:
        return [*blocks, Paragraph(("Nothing was sent yet; this report says what was received.",))]
    lost = sum(e.verdict is Verdict.LOST for e in proof.ledger.entries)
    altered = sum(e.verdict is Verdict.ALTERED for e in proof.ledger.entries)
    said = (
        f"{lost} kinds of things lost, {altered} altered" if lost or altered else "everything came across"
    )
    unsaid = len(proof.unannounced)
    announced = "all of it was announced before sending" if not unsaid else f"{unsaid} not announced"
    tail = f"; {announced}" if lost or altered or unsaid else ""
    return [*blocks, Paragraph((Marked(proof.verdict), f" \u00a0 {said}{tail}."))]


def _pictures(source: ReportSource) -> list[Block]:
    if not source.pictures:
        return []
    return [Pictures(tuple(picture_of(each.caption, each.png) for each in source.pictures))]


def _received(source: ReportSource, figures: Figures) -> list[Block]:
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
                          f"{bodies:,} bodies, {placed:,} in place"))  # fmt: skip
    totals = totals_of(model, source.facts)
    for root in model.roots:
        total = totals.get(root)
        if total is not None and total.bbox is not None:
            what = f"{figures.volume(total.volume)}, {figures.box(total.bbox)}"
            rows.append((f"Size of {model.product(root).label}", what))
    blocks: list[Block] = [Heading("What was received"), Table(tuple(rows))]
    notes = [f"{n.where + ': ' if n.where else ''}{n.text}" for n in model.notes]
    notes += source.problems
    if notes:
        some, more = folded(notes)
        some += [f"and {more} more"] if more else []
        blocks += [Paragraph(("Notes on reading:",)), Bullets(tuple(some))]
    return blocks


def _forecast(source: ReportSource) -> list[Block]:
    if source.forecast is None:
        return []
    rows: list[tuple[Cell, ...]] = []
    for thing, fate, why, items in source.forecast.groups():
        if fate is not Fate.CARRIED:
            count = sum(item.weight for item in items)
            named = ", ".join(item.path for item in items[:6])
            more = f" and {len(items) - 6} more" if len(items) > 6 else ""
            rows.append((thing, Marked(fate), str(count), why, named + more))
    heading = Heading(f"Forecast for {source.forecast.target}")
    if not rows:
        return [heading, Paragraph(("Everything this model has was expected to be carried.",))]
    return [heading, Table(tuple(rows), ("Thing", "Fate", "Count", "Why", "Items"))]


def _proof(source: ReportSource, figures: Figures) -> list[Block]:
    proof = source.proof
    if proof is None:
        return []
    size = f"{size_of_file(source.sent_bytes)}, read back from the written file"
    name = source.sent_path.rsplit("/", 1)[-1]
    blocks: list[Block] = [Heading(f"Proof of {name}"), Paragraph((size,), is_quiet=True)]
    rows: list[tuple[Cell, ...]] = []
    for entry in proof.ledger.entries:
        if entry.items:
            said = {True: "", False: "not announced", None: ""}[entry.announced]
            rows.append((entry.thing, entry.before, entry.after, Marked(entry.verdict), said))
    blocks.append(Table(tuple(rows), ("Thing", "Before", "After", "Verdict", "")))
    text = (
        f"Largest deviation {figures.deviation(proof.max_deviation)}; largest volume error "
        f"{relative(proof.max_volume_error)} relative; largest shift {figures.deviation(proof.max_shift)}."
    )
    blocks.append(Paragraph((text,), quietly=f"Method: {proof.method}."))
    blocks += [
        Paragraph((line,), is_quiet=True) for line in (*proof.witness, *other_sentences(proof.other))
    ]
    troubled = [c for e in proof.ledger.entries for c in e.items if c.verdict is not Verdict.CARRIED]
    if troubled:
        shown = tuple(_compared(c) for c in troubled[: MOST * 5])
        blocks.append(Heading("What did not come across, and why"))
        blocks.append(Table(shown, ("Item", "Before", "After", "Verdict", "Why")))
        if len(troubled) > MOST * 5:
            blocks.append(Paragraph((f"and {len(troubled) - MOST * 5} more items",)))
    return blocks


def _compared(compared: Compared) -> tuple[Cell, ...]:
    said = {True: "announced", False: "not announced", None: ""}[compared.announced]
    why = ", ".join(t for t in (compared.detail, said) if t)
    item, what = compared.item.path, compared.item.what
    item = item if item.endswith(what) else f"{item} ({what})"
    return item, compared.item.text, compared.after or "nothing", Marked(compared.verdict), why


def _parts(source: ReportSource, figures: Figures) -> list[Block]:
    model = source.model
    rows = []
    for product in model.products:
        known = [source.facts[b.blob] for b in product.bodies if b.blob in source.facts]
        if not known:
            continue
        total = sum(f.volume for f in known)
        density = product.material.density if product.material else None
        rows.append((
            product.label, product.number, product.revision, str(model.quantities[product.id]),
            figures.volume(total), figures.area(sum(f.area for f in known)),
            product.material.name if product.material else "", figures.mass(total, density),
        ))  # fmt: skip
    header = ("Part", "Number", "Rev", "Qty", "Volume", "Area", "Material", "Mass")
    return [Heading("Parts"), Table(tuple(rows), header)] if rows else []


def _dimensions(source: ReportSource) -> list[Block]:
    rows = [
        (view.name, each.name, each.text, *(f"{x:.3f}, {y:.3f}, {z:.3f}" for x, y, z in each.points))
        for view in source.views
        for each in view.dimensions
    ]
    header = ("View", "Of", "Measured", "From, mm", "To, mm")
    return [Heading("Dimensions kept on views"), Table(tuple(rows), header)] if rows else []
