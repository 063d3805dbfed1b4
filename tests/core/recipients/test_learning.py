"""A file that came back tells what its recipient keeps."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.STEPControl import STEPControl_Reader, STEPControl_StepModelType, STEPControl_Writer

from gondrel.cli.main import main
from gondrel.core.kernel.derive import facts_of
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.card import Card, card_named
from gondrel.core.recipients.learning import proposed_card
from gondrel.core.recipients.rehearsal import rehearse
from gondrel.core.recipients.stand_ins.known import stand_in
from gondrel.core.service.prove import deviations_of
from gondrel.core.service.send import send
from gondrel.core.service.settings import settings_from
from tests.core.recipients.nasty import nasty

pytestmark = pytest.mark.slow


@pytest.mark.parametrize(
    ("key", "kind"),
    [
        ("surfaces", "step-ap214"),
        ("flat", "step-ap242"),
        ("first-edition", "step-ap203"),
        ("inch", "step-ap214"),
    ],
)
def test_a_bare_card_becomes_true(tmp_path: Path, key: str, kind: str) -> None:
    """What a stand-in made of a file says of its card what its shipped card says."""
    store = BlobStore(tmp_path / "store")
    model = nasty(store)
    names = {
        "p2": "Second bearing bracket, lower, with oil groove",
        "p3": "Third one, of sheet metal, bent twice",
    }
    model = replace(model, products=tuple(
        replace(p, name=names.get(p.id, p.name)) for p in model.products))  # fmt: skip
    sent = send(model, str(tmp_path / "out"), kind, settings_from({}), str(store.folder))
    facts = {blob: facts_of(store, blob) for blob in model.blobs()}
    mate = stand_in(key)
    proof = rehearse(mate, sent.path, model, facts, store, deviations_of(store)).proof
    learned, why = proposed_card(Card("x", "Somebody"), proof)
    shipped = card_named(mate.card)
    assert why
    told = {
        "surfaces": lambda c: c.limits.surfaces,
        "flat": lambda c: (c.keeps.structure, c.keeps.name_length),
        "first-edition": lambda c: (c.keeps.colours, c.keeps.structure),
        "inch": lambda c: (c.limits.trusts_unit, c.limits.unit),
    }[key]
    assert told(learned) == told(shipped), why


def test_the_bare_kernels_reader_and_writer_are_told_exactly(as1: str, tmp_path: Path, capsys: Any) -> None:
    """They know shapes in places and no names, colours, layers or figures."""
    ours, back = tmp_path / "ours.stp", tmp_path / "back.stp"
    assert main(["send", as1, "--as", "step-ap242", "--out", str(ours)]) == 0
    capsys.readouterr()
    reader = STEPControl_Reader()
    assert reader.ReadFile(str(ours)) == IFSelect_ReturnStatus.IFSelect_RetDone
    reader.TransferRoots()
    writer = STEPControl_Writer()
    writer.Transfer(reader.OneShape(), STEPControl_StepModelType.STEPControl_AsIs)
    writer.Write(str(back))
    assert main(["prove", str(ours), str(back), "--card", "rigger", "--json"]) == 1
    result = json.loads(capsys.readouterr().out)
    ledger = {entry["thing"]: entry for entry in result["ledger"]}
    assert ledger["bodies"]["verdict"] == ledger["geometry"]["verdict"] == "carried"
    assert ledger["colours"]["verdict"] == ledger["layers"]["verdict"] == "lost"
    keeps = result["card"]["proposal"]["keeps"]
    assert keeps["colours"] == "none" and keeps["layers"] is False and keeps["validation"] is False
    assert any("none of 5 colours came back" in line for line in result["card"]["changes"])
    assert main(["prove", str(ours), str(back), "--card", "rigger", "--learn"]) == 1
    assert card_named("rigger").keeps.colours == "none" and "# Rigs and erects" in _text("rigger")


def _text(key: str) -> str:
    from gondrel.core.recipients.card import SUFFIX, cards_folder

    return (cards_folder() / f"{key}{SUFFIX}").read_text("utf-8")
