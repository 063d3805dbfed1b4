"""The report that goes with a file to its recipient: what it is, check values, what was not carried.

One HTML file, and a PDF of the same with its print styles; neither needs a display.
"""

from __future__ import annotations

import base64
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from importlib.resources import files
from typing import Any

from jinja2 import Environment

from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.ledger import Proof
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.findings import CheckReport, Severity
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.verdicts import Verdict
from gondrel.core.reports.figures import digits, size_of_file

__all__ = ["HandedFile", "Handover", "as_pdf", "handover_html"]

_EXAMPLES = 3


@dataclass(frozen=True, slots=True)
class HandedFile:
    """A file that is handed over."""

    name: str
    bytes: int
    sha256: str


@dataclass(frozen=True, slots=True)
class Handover:
    """Everything the report is made from.

    Args:
        model: as it was meant; facts: measures of its bodies by hash.
        forecast, proof: of the file that was sent, None where none was.
        pictures: caption and PNG; checked: what checks found, None where nothing was checked.
        to: who it is for; made: when, for people.
    """

    model: Model
    facts: Mapping[str, BodyFacts]
    sent: Sequence[HandedFile] = ()
    kind: str = ""
    unit: str = "mm"
    forecast: Forecast | None = None
    proof: Proof | None = None
    pictures: Sequence[tuple[str, bytes]] = ()
    checked: CheckReport | None = None
    to: str = ""
    author: str = ""
    made: str = ""


def handover_html(source: Handover) -> str:
    """The report as the text of one HTML file."""
    environment = Environment(autoescape=True, trim_blocks=True)
    text = files(__package__).joinpath("handover.html").read_text("utf-8")
    root = source.model.product(source.model.roots[0]) if source.model.roots else None
    title = " ".join(t for t in (root.number, root.label) if t) if root is not None else "Nothing"
    if root is not None and root.revision:
        title += f", revision {root.revision}"
    wrong = list(_wrong(source))
    return environment.from_string(text).render(
        title=title,
        about=" \u00b7 ".join(t for t in (source.made, source.author,
                                          f"for {source.to}" if source.to else "") if t),
        facts=list(_facts(source)),
        lost=list(_lost(source)),
        nothing_lost="Everything in this model is carried." if source.proof else "Nothing was sent.",
        wrong=wrong,
        nothing_wrong="Nothing was found." if source.checked is not None else "The model was not checked.",
        pictures=[{"caption": c, "data": base64.b64encode(png).decode()} for c, png in source.pictures],
        files=[{"name": f.name, "bytes": f"{f.bytes:,}", "sha256": f.sha256} for f in source.sent],
        values=list(_values(source)),
    )  # fmt: skip


def as_pdf(html: str) -> bytes:
    """A page as PDF, by its print styles; needs no display."""
    from weasyprint import HTML

    data = HTML(string=html).write_pdf()
    assert isinstance(data, bytes)
    return data


def _facts(source: Handover) -> Iterator[tuple[str, str]]:
    model = source.model
    counts = model.quantities
    placed = sum(counts[p.id] * len(p.bodies) for p in model.products)
    if model.provenance is not None:
        card = model.provenance.file
        yield "Received from", card.path.rsplit("/", 1)[-1]
    if source.sent:
        yield "Sent as", f"{source.kind}, lengths in {source.unit}, {size_of_file(source.sent[0].bytes)}"
    yield "Holds", f"{len(model.products)} items in {model.depth} levels, {placed:,} bodies in place"
    proof = source.proof
    if proof is not None:
        fates = [c.verdict for entry in proof.ledger.entries for c in entry.items]
        lost, altered = fates.count(Verdict.LOST), fates.count(Verdict.ALTERED)
        said = "all of it announced" if not proof.unannounced else f"{len(proof.unannounced)} not announced"
        told = f"{lost} items lost, {altered} altered, {said}" if lost or altered else "everything carried"
        yield "Proof", f"read back and compared: {told}"
        deviation = "not measured" if proof.max_deviation is None else f"{proof.max_deviation:.2g} mm"
        yield "Largest deviation", f"{deviation} between the surfaces meant and read back"


def _lost(source: Handover) -> Iterator[dict[str, Any]]:
    """What was not carried, grouped by thing, fate and reason; never a row for each of many equal items."""
    announced = {e.item.key: e.why for e in source.forecast.entries} if source.forecast else {}
    groups: dict[tuple[str, str, str], list[str]] = {}
    for entry in source.proof.ledger.entries if source.proof is not None else ():
        for each in entry.items:
            if each.verdict in (Verdict.LOST, Verdict.ALTERED):
                why = announced.get(each.item.key) or each.detail or "not announced"
                groups.setdefault((entry.thing, str(each.verdict), why), []).append(each.item.path)
    for (thing, fate, why), paths in groups.items():
        named = list(dict.fromkeys(paths))
        more = f" and {len(named) - _EXAMPLES} more" if len(named) > _EXAMPLES else ""
        what = f"{thing.capitalize()}: {', '.join(named[:_EXAMPLES])}{more}"
        yield {"what": what, "count": len(paths), "fate": fate, "why": why}


def _wrong(source: Handover) -> Iterator[tuple[str, int]]:
    if source.checked is None:
        return
    counts = Counter(
        f"{finding.title} ({finding.severity.value})"
        for finding in source.checked.findings
        if finding.severity is not Severity.NOTE
    )
    yield from counts.most_common()


def _values(source: Handover) -> Iterator[dict[str, Any]]:
    counts = source.model.quantities
    for product in source.model.products:
        known = [source.facts[b.blob] for b in product.bodies if b.blob in source.facts]
        if product.is_reference or not known:
            continue
        yield {
            "number": product.number, "name": product.name, "revision": product.revision,
            "places": counts[product.id], "bodies": len(product.bodies),
            "faces": sum(f.faces for f in known),
            "volume": digits(sum(f.volume for f in known)), "area": digits(sum(f.area for f in known)),
            "centroid": _centroid(known), "box": _box(product, known),
        }  # fmt: skip


def _centroid(known: Sequence[BodyFacts]) -> str:
    weights = [f.volume or f.area or f.length for f in known]
    whole = sum(weights) or 1.0
    middle = [sum(w * f.centroid[i] for w, f in zip(weights, known, strict=True)) / whole for i in range(3)]
    return ", ".join(f"{value + 0.0:.3f}".replace("-0.000", "0.000") for value in middle)


def _box(product: Product, known: Sequence[BodyFacts]) -> str:
    low = [min(f.bbox[i] for f in known) for i in range(3)]
    high = [max(f.bbox[i + 3] for f in known) for i in range(3)]
    return " \u00d7 ".join(f"{b - a:.3f}" for a, b in zip(low, high, strict=True))
