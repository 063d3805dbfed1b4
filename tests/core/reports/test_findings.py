"""Findings as a page for people, and what the receiver is told of them."""

from __future__ import annotations

from gondrel.core.model import Body, BodyKind, Model, Product
from gondrel.core.model.findings import CheckReport, Finding, Mended, Severity
from gondrel.core.reports.document import ReportSource, make_html
from gondrel.core.reports.figures import Figures
from gondrel.core.reports.findings import kinds_of, make_findings_html, measure_of

PLATE = Product("p", "N-1", "Plate <A>", bodies=(Body("b", BodyKind.SOLID, "Body 1", "0" * 64),))
MODEL = Model((PLATE,), ("p",))


def edge(measured: float, text: str = "it is short") -> Finding:
    return Finding(
        "G301", "Edge too short", Severity.DOUBT, text, "p", "b", edge=4, point=(1.0, 2.0, 3.5),
        measured=measured, limit=0.01, unit="mm",
    )  # fmt: skip


OPEN = Finding(
    "T101", "Solid not closed", Severity.FAULT, "a rim of 60 mm", "p", "b", measured=60.0, unit="mm"
)
REPORT = CheckReport((OPEN, edge(0.004), edge(0.001, "it is next to nothing")), (("p", 26),))


def test_kinds_have_their_worst_first_whichever_way_is_worse() -> None:
    rim, short = kinds_of(REPORT, MODEL)
    assert (rim.code, rim.worst) == ("T101", "60 mm")
    assert [f.measured for f in short.findings] == [0.001, 0.004] and short.worst == "0.001 mm (limit 0.01)"
    assert short.parts == ("Plate <A>",)


def test_measures_have_units_and_limits() -> None:
    assert (
        measure_of(Finding("A508", "", Severity.DOUBT, "", measured=2400.0, unit="mm3")) == "2,400 mm\u00b3"
    )
    assert measure_of(
        Finding("G401", "", Severity.DOUBT, "", measured=90.0, limit=0.5, unit="deg")
    ).endswith("(limit 0.5)")
    assert measure_of(Finding("M601", "", Severity.DOUBT, "")) == ""


def test_the_page_tells_each_place_with_why_and_cure() -> None:
    helps = {"G301": ("It is lost.", "Merge its ends.")}
    page = make_findings_html("Findings: gear", MODEL, REPORT, helps, "2026-01-02 03:04")
    assert "It is lost. Merge its ends." in page and "edge 5 (1.000, 2.000, 3.500)" in page
    assert "Plate &lt;A&gt;, Body 1" in page and "<A>" not in page.replace("&lt;A&gt;", "")
    assert "26 faces, edges and vertices examined" in page and "it is next to nothing" in page
    assert page.index("Solid not closed") < page.index("Edge too short")


def test_long_lists_fold() -> None:
    many = CheckReport(tuple(edge(0.001 * n) for n in range(1, 101)), (("p", 5),))
    page = make_findings_html("t", MODEL, many, {}, "now")
    assert "and 40 places more" in page


def test_nothing_examined_is_never_nothing_found() -> None:
    page = make_findings_html("t", MODEL, CheckReport(()), {}, "now")
    assert "There was nothing to examine" in page and "Nothing was found" not in page
    clean = make_findings_html("t", MODEL, CheckReport((), (("p", 5),)), {}, "now")
    assert "Nothing was found" in clean


def _report(**more) -> str:
    return make_html(ReportSource("Crossing report", MODEL, {}, **more), Figures("mm", 3))


def test_the_report_to_the_receiver_says_what_is_known_to_remain() -> None:
    assert "It was not checked" in _report()
    told = _report(checked=REPORT)
    assert "What is known to be wrong with it" in told and "Solid not closed (T101)" in told


def test_the_report_says_what_was_mended_and_how_far() -> None:
    done = Mended(
        "R108", "Rebuild edges", "Plate", "Plate", "mended", "within 0.05 mm", (("faults", 9.0),),
        (("faults", 0.0),),
    )  # fmt: skip
    refused = Mended("R104", "Close rims", "Plate", "Plate", "refused", "no", (), ())
    told = _report(mended=(done, refused))
    assert "Rebuild edges (R108)" in told and "within 0.05 mm" in told and "faults 9 to 0" in told
    assert "Close rims" not in told and "What was mended" not in _report(mended=(refused,))
