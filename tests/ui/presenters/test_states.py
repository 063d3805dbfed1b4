"""What stands in the State column."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.model.findings import CheckReport, Finding, Severity
from gondrel.ui.presenters.cells import findings_of, held_never, never_line
from gondrel.ui.presenters.rows import build_flat, fitting
from gondrel.ui.presenters.states import states_of
from tests.ui.presenters.models import gate, proof_of


def test_nothing_is_said_before_anything_is_known() -> None:
    model = gate()
    assert states_of(model, None) == {}
    found = states_of(model, None, {"blob-pin"})
    assert set(found) == {"pin"} and found["pin"].mark == "fault"


def test_what_the_target_never_holds_is_told_once_and_not_of_every_row() -> None:
    model = gate()
    proof = proof_of(model, "materials")
    assert held_never(proof).keys() == {"materials"} and "materials (" in never_line(proof)
    assert all(state.mark == "carried" for state in states_of(model, proof).values())
    assert not findings_of(proof, None)
    assert findings_of(proof, None, "materials")


def test_what_nobody_announced_is_named_in_its_row() -> None:
    model = gate()
    proof = proof_of(model, "materials", announced=False)
    states = states_of(model, proof)
    assert (states["pin"].mark, states["pin"].text) == ("lost", "materials")
    assert not held_never(proof)
    rows = build_flat(model)
    gone = [r for r in rows if r.product.material is not None]
    for word, found in (("lost", gone), ("state:materials", gone), ("altered", [])):
        assert [row for row in rows if fitting((word,), states)(row)] == found


def test_findings_are_counted_and_come_before_what_was_announced() -> None:
    model = gate()
    finding = Finding("T101", "open", Severity.FAULT, "it is open", "pin")
    report = CheckReport(
        (finding, replace(finding, severity=Severity.DOUBT), finding), (("pin", 5), ("frame", 5))
    )
    checked = states_of(model, None, report=report)
    assert (checked["pin"].mark, checked["pin"].text) == ("fault", "2 faults")
    assert "1 doubt" in checked["pin"].tip
    assert checked["frame"].mark == "clean"
    both = states_of(model, proof_of(model, "materials", announced=False), report=report)
    assert both["pin"].mark == "lost" and "2 faults" in both["pin"].tip
