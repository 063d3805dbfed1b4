"""Cells of the ledger and what is behind them."""

from __future__ import annotations

from gondrel.ui.presenters.cells import (
    TITLES,
    empty_cells,
    findings_of,
    forecast_cells,
    proof_cells,
    summary,
)
from tests.ui.presenters.models import forecast_of, gate, proof_of


def test_forecast_and_proof_stand_in_the_same_cells() -> None:
    model = gate()
    before = {c.thing: c for c in forecast_cells(forecast_of(model, "colours"))}
    after = {c.thing: c for c in proof_cells(proof_of(model, "colours"))}
    assert list(before) == list(after) == list(TITLES) == [c.thing for c in empty_cells()]
    assert (before["colours"].before, before["colours"].after) == ("2", "0")
    assert before["colours"].is_forecast
    assert (after["colours"].before, after["colours"].after, after["colours"].verdict) == (
        "2", "0", "lost as announced"
    )  # fmt: skip
    assert before["bodies"].verdict == after["bodies"].verdict == "carried"


def test_cells_of_what_the_model_has_not_are_quiet() -> None:
    cells = {c.thing: c for c in proof_cells(proof_of(gate()))}
    assert cells["validation"].is_quiet
    assert not cells["materials"].is_quiet
    assert all(c.is_quiet for c in empty_cells())


def test_an_unannounced_loss_is_marked_in_its_cell_and_in_the_head() -> None:
    proof = proof_of(gate(), "layers", announced=False)
    (cell,) = [c for c in proof_cells(proof) if c.thing == "layers"]
    assert cell.note == "not announced"
    verdict, sentence = summary(proof)
    assert verdict == "lost"
    assert "not announced" in sentence


def test_the_head_says_what_was_lost_or_that_all_came() -> None:
    assert summary(proof_of(gate())) == ("carried", "Everything came across")
    verdict, sentence = summary(proof_of(gate(), "layers", "colours"))
    assert (verdict, sentence) == ("lost as announced", "2 things lost, as announced")


def test_findings_gather_items_and_lead_to_products() -> None:
    proof = proof_of(gate(), "colours", announced=False)
    (finding,) = findings_of(proof, None)
    assert finding.thing == "colours"
    assert finding.products == {"frame", "pin"}
    assert finding.returned == {"frame", "pin"}
    assert len(finding.lines) == 2
    assert "announced" in finding.note
    shown = findings_of(proof, None, "names")
    assert {f.verdict for f in shown} == {"carried"}


def test_a_forecast_lists_only_what_is_not_carried_unless_asked() -> None:
    forecast = forecast_of(gate(), "materials")
    (finding,) = findings_of(None, forecast)
    assert finding.text == "1 of 1 lost"
    assert finding.note == "no place for materials"
    (carried,) = findings_of(None, forecast, "bodies")
    assert carried.verdict == "carried"
