"""The report of a crossing."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.model import FileFacts, Note, Provenance, Writer
from gondrel.core.model.views import Camera, Dimension, View
from gondrel.core.reports.document import Picture, ReportSource, make_html
from gondrel.core.reports.figures import Figures
from tests.ui.presenters.models import facts, forecast_of, gate, proof_of

KNOWN = {"blob-pin": facts(2000.0), "blob-frame": facts(50000.0)}


def source(**changes) -> ReportSource:
    card = FileFacts("/in/gate <1>.stp", 5000, "step", "text", "AP242", length_unit="mm",
                     written_by=Writer("Drawing office", author="A. Weir"))  # fmt: skip
    model = replace(gate(), provenance=Provenance(card, "ab" * 32, received="2026-11-24T09:12:00"))
    return replace(ReportSource("Gate report", model, KNOWN), **changes)


def test_before_a_send_it_says_what_was_received() -> None:
    html = make_html(source(), Figures())
    assert "Nothing was sent yet" in html
    assert "gate &lt;1&gt;.stp" in html
    assert "A. Weir" in html
    assert "ab" * 32 in html
    assert "2,000.00 mm\u00b3" in html
    assert "17.6 g" in html


def test_losses_are_told_by_word_and_sign_with_why_and_whether_announced() -> None:
    model = source().model
    html = make_html(
        source(
            forecast=forecast_of(model, "colours"), proof=proof_of(model, "colours"), sent_path="/o/g.stp"
        ),
        Figures(),
    )
    assert "\u25c6 lost" in html
    assert "no place for colours" in html
    assert "nothing came back, announced" in html
    assert "all of it was announced before sending" in html
    assert "Proof of g.stp" in html


def test_what_was_not_announced_is_said_first() -> None:
    html = make_html(source(proof=proof_of(source().model, "layers", announced=False)), Figures())
    assert "1 not announced" in html


def test_pictures_are_inside_and_notes_are_folded() -> None:
    model = replace(source().model, notes=tuple(Note("n", f"note {i}") for i in range(100)))
    html = make_html(source(model=model, pictures=(Picture("Received", b"\x89PNG"),)), Figures())
    assert "data:image/png;base64,iVBORw==" in html
    assert "note 59" in html
    assert "note 60" not in html
    assert "and 40 more" in html
    assert "http" not in html, "nothing is fetched from elsewhere"


def test_dimensions_kept_on_views_are_listed() -> None:
    camera = Camera((0, 0, 100), (0, 0, 0), (0, 1, 0), 10.0)
    width = Dimension(((0, 0, 0), (12.5, 0, 0)), "12.500 mm", "frame to pin")
    html = make_html(source(views=(View("Throat", camera, dimensions=(width,)),)), Figures())
    for said in ("Throat", "frame to pin", "12.500 mm", "12.500, 0.000, 0.000"):
        assert said in html
    assert "Dimensions" not in make_html(source(views=(View("Bare", camera),)), Figures())
