"""Findings and mends in words, without widgets."""

from __future__ import annotations

from dataclasses import replace

import pytest

from gondrel.core.model import Body, BodyKind, Model, Product
from gondrel.core.model.findings import CheckReport, Finding, Mended, PlannedMend, Severity
from gondrel.core.service.messages import Sent
from gondrel.ui.presenters.findings import kind_line, kinds_shown, known_line, line_of, parts_of, summary_of
from gondrel.ui.presenters.mends import VERDICTS, figures_line, plan_line
from gondrel.ui.session.comparison import comparison_with_returned, partners_of, same_bodies
from tests.ui.presenters.models import forecast_of, gate, proof_of

ALL = frozenset(Severity)


def part(key: str, *blobs: str) -> Product:
    bodies = tuple(Body(f"{key}{n}", BodyKind.SOLID, "", blob) for n, blob in enumerate(blobs))
    return Product(key, f"N-{key}", f"Part {key}", bodies=bodies)


MODEL = Model((part("a", "1"), part("b", "2"), part("c"), part("d", "3")), ("a", "b", "c", "d"))


def finding(code: str, severity: Severity, product: str, **more) -> Finding:
    return Finding(code, f"Title {code}", severity, f"text of {code}", product, **more)


REPORT = CheckReport(
    (
        finding("T101", Severity.FAULT, "b", measured=60.0, unit="mm"),
        finding("G301", Severity.DOUBT, "a", measured=0.004, limit=0.01, unit="mm"),
        finding("G301", Severity.DOUBT, "b", measured=0.002, limit=0.01, unit="mm"),
        finding("G502", Severity.NOTE, "d", measured=36.0, unit="mm"),
        finding("M602", Severity.DOUBT, "a", measured=None),
    ),
    (("a", 26), ("b", 20), ("d", 9)),
)


def test_kinds_have_counts_and_the_worst_figure() -> None:
    rim, short, thread, number = map(kind_line, kinds_shown(REPORT, MODEL, ALL))
    assert rim == "1 place, worst 60 mm"
    assert short == "2 places, worst 0.002 mm (limit 0.01)"
    assert thread == number == "1 place", "a note has no worst, a name no figure"


@pytest.mark.parametrize(
    ("severities", "products", "codes"),
    [
        ({Severity.FAULT}, set(), ["T101"]), ({Severity.DOUBT}, {"a"}, ["G301", "M602"]),
        (set(), set(), []), (ALL, {"c"}, []),
    ],
)  # fmt: skip
def test_kinds_are_filtered(severities, products, codes) -> None:
    found = kinds_shown(REPORT, MODEL, frozenset(severities), frozenset(products))
    assert [kind.code for kind in found] == codes


def test_parts_come_worst_first_and_say_how_much_was_looked_at() -> None:
    lines = parts_of(REPORT, MODEL)
    assert [(line.product, line.severity) for line in lines] == [
        ("b", Severity.FAULT), ("a", Severity.DOUBT), ("d", None),
    ]  # fmt: skip
    assert lines[0].text == "Part b: 1 fault, 1 doubt, 20 examined"
    assert lines[2].text == "Part d: clean, 1 note, 9 examined"


def test_a_part_that_was_not_examined_is_not_clean() -> None:
    nothing = replace(REPORT, findings=(), examined=(("a", 26),))
    texts = {line.product: line.text for line in parts_of(nothing, MODEL)}
    assert "clean" in texts["a"] and "not examined" in texts["b"] and "clean" not in texts["b"]
    assert dict(summary_of(nothing, MODEL))["Clean"] == "1 of 1 part"
    assert dict(summary_of(replace(nothing, examined=()), MODEL))["Examined"] == "nothing"


def test_lines_name_the_part() -> None:
    assert line_of(REPORT.findings[0], {"b": "Part b"}) == "Part b: text of T101"
    assert line_of(finding("A512", Severity.DOUBT, ""), {}) == "text of A512"


def test_what_remains_is_told() -> None:
    assert known_line(REPORT).startswith("Known to remain: 1 fault, 3 doubts")
    assert known_line(replace(REPORT, findings=())) == "Checked: no fault and no doubt remains."
    assert "Not checked" in known_line(None)


def test_a_planned_mend_in_one_line() -> None:
    mend = PlannedMend("R108", "Rebuild", "It does.", False, False, ("G201", "G205"), 8, ("a", "b"))
    assert plan_line(mend) == "8 places in 2 parts (G201, G205); changes the shape"
    assert (
        plan_line(replace(mend, is_safe=True, count=1, products=()))
        == "1 place (G201, G205); keeps the shape"
    )


def test_only_figures_that_changed_are_told() -> None:
    before = (("volume", 6010.0), ("faces", 6.0), ("faults", 9.0))
    after = (("volume", 6030.0), ("faces", 6.0), ("faults", 0.0))
    told = figures_line(Mended("R108", "", "", "", "mended", "", before, after))
    assert told == "volume 6,010 to 6,030 mm\u00b3, faults 9 to 0"
    assert figures_line(Mended("R1", "", "", "", "refused", "", before, before)) == ""
    assert set(VERDICTS) == {"mended", "improved", "unchanged", "refused"}


def test_states_of_a_model_are_paired_by_body() -> None:
    mended = Model((part("a", "9"), part("b", "2"), part("c"), part("e", "4")), ("a", "b", "c", "e"))
    ours, theirs, products = same_bodies(MODEL, mended)
    assert theirs == {"9": ("1",)}, "a body that did not change needs no comparison"
    assert ours == {"1": ("9",)} and products == {"a", "d", "e"}


def test_bodies_that_became_one_are_all_compared_with_it() -> None:
    """Two skins became a solid under the name of the first; a third body stayed."""
    before = Model((part("a", "outer", "inner", "pin"),), ("a",))
    first, _, pin = before.product("a").bodies
    whole = replace(before.product("a"), bodies=(replace(first, blob="solid"), pin))
    after = Model((whole,), ("a",))
    ours, theirs, _ = same_bodies(before, after)
    assert ours == {"outer": ("solid", "pin"), "inner": ("solid", "pin")}
    assert theirs == {"solid": ("outer", "inner", "pin")}
    gone = Model((replace(before.product("a"), bodies=()),), ("a",))
    assert same_bodies(before, gone)[:2] == ({}, {}), "there is nothing to compare with"


def test_partners_in_the_second_pane() -> None:
    model = gate()
    sent = Sent("out/out.stp", 1, "step-ap242", forecast_of(model), proof_of(model), model, {})
    comparison = comparison_with_returned(model, sent)
    assert (
        comparison.is_proof and comparison.detail == "from out.stp" and comparison.captions[1] == "RETURNED"
    )
    assert partners_of(replace(comparison, is_proof=False), None, ["x"]) == {"x"}
    assert partners_of(comparison, None, ["pin"]) == {"pin"}, "nothing was sent, so ids are the same"
    assert partners_of(comparison, sent, ["nothing"]) == frozenset()
