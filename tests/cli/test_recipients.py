"""``gondrel rehearse`` and ``gondrel recipients``."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from gondrel.cli.main import main

pytestmark = pytest.mark.slow


def said(capsys: Any, *arguments: str) -> tuple[int, Any]:
    status = main([*arguments, "--json"])
    return status, json.loads(capsys.readouterr().out)


def test_a_rehearsal_has_the_contracts_shape(as1: str, capsys: Any) -> None:
    status, made = said(capsys, "rehearse", as1, "--card", "rigger")
    assert status == 0 and made["stand_in"] == "flat" and made["complaints"]
    assert (made["unannounced_losses"], made["false_alarms"]) == (0, 0)
    ledger = {entry["thing"]: entry for entry in made["ledger"]}
    assert ledger["structure"]["verdict"] == "lost" and ledger["bodies"]["verdict"] == "carried"
    status, _ = said(capsys, "rehearse", as1, "--with", "strict", "--card", "rigger", "--as", "step-ap214")
    assert status == 1, "the card does not fit that stand-in"
    assert main(["rehearse", as1, "--as", "step-ap214"]) == 2
    assert main(["rehearse", as1, "--with", "nobody", "--as", "step-ap214"]) == 2


def test_cards_are_listed_shown_asked_and_answered(tmp_path: Path, capsys: Any) -> None:
    status, made = said(capsys, "recipients", "list")
    assert status == 0 and len(made["cards"]) == 6
    assert said(capsys, "recipients", "show", "rigger")[1]["keeps"]["name_length"] == 30
    form = tmp_path / "form.txt"
    assert main(["recipients", "ask", str(form)]) == 0 and main(["recipients", "ask", str(form)]) == 2
    form.write_text(form.read_text("utf-8").replace("[name]", "[name] Lower Lock"), "utf-8")
    assert main(["recipients", "answer", str(form)]) == 0
    capsys.readouterr()
    assert said(capsys, "recipients", "show", "lower-lock")[1]["name"] == "Lower Lock"
    assert main(["recipients", "fly", "x"]) == 2


def test_formats_are_ranked_for_a_recipient_and_a_send_tells_their_losses(
    as1: str, tmp_path: Path, capsys: Any
) -> None:
    status, made = said(capsys, "recipients", "choose", as1, "--card", "gear-cutter")
    assert status == 0 and [c["kind"] for c in made["choices"]][:2] == ["xt-text", "xt-binary"]
    assert made["choices"][0]["reasons"][0].startswith("Hollin Gear Cutters like it best")
    out = tmp_path / "out.stp"
    status, sent = said(
        capsys, "send", as1, "--as", "step-ap214", "--recipient", "rigger", "--out", str(out)
    )
    assert status == 0 and sent["recipient"]["harm"]["structure"] == "lost"
    assert "metadata" not in sent["recipient"]["harm"]
    lines = {(e["thing"], e["fate"]) for e in sent["recipient"]["forecast"]}
    assert ("structure", "lost") in lines and sent["proof"]["unannounced_losses"] == 0
