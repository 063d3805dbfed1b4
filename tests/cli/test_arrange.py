"""``gondrel arrange``: the contract's shape, what is written, exit codes."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from gondrel.cli.main import main


def run(capsys: Any, *arguments: str) -> tuple[int, str, str]:
    status = main(list(arguments))
    out, err = capsys.readouterr()
    return status, out, err


@pytest.fixture(scope="module")
def flat(as1: str, tmp_path_factory: pytest.TempPathFactory) -> str:
    out = str(tmp_path_factory.mktemp("flat") / "flat.stp")
    assert main(["send", as1, "--set", "receive.structure=flat", "--as", "step-ap214", "--out", out]) == 0
    return out


def test_the_proposal_has_the_contracts_shape(flat: str, capsys: Any) -> None:
    status, out, _ = run(capsys, "arrange", flat, "--recover", "--json")
    proposal = json.loads(out)["proposal"]
    assert status == 0
    parts = [p for p in proposal["products"] if p["bodies"]]
    assert len(parts) == 5 and sum(len(p["uses"]) for p in parts) == 18 and proposal["unassigned"] == 0
    for part in parts:
        assert set(part) >= {"name", "number", "bodies", "uses", "pattern", "standard_part"}
        for use in part["uses"]:
            assert set(use) >= {"parent", "placement", "mirrored"} and len(use["placement"]) == 16
    assert all(set(group) >= {"name", "uses"} for group in proposal["assemblies"])


def test_taken_and_sent_with_its_proof(flat: str, tmp_path: Path, capsys: Any) -> None:
    out = str(tmp_path / "out.stp")
    status, said, _ = run(capsys, "arrange", flat, "--recover", "--out", out, "--as", "step-ap242",
                          "--json")  # fmt: skip
    result = json.loads(said)
    assert status == 0 and result["sent"][0]["path"] == out
    assert result["proof"]["unannounced_losses"] == 0 or not result["proof"]["unannounced_losses"]
    assert result["proposal"]["stands"]["max_deviation"] < 1e-6
    assert result["figures"]["after"]["places"] == 18 and result["figures"]["before"]["parts"] == 1
    assert result["figures"]["after"]["volume"] == pytest.approx(result["figures"]["before"]["volume"])
    status, out, _ = run(capsys, "arrange", flat, "--recover")
    assert status == 0 and "5 parts in 18 places" in out and "sub-assembly" in out


def test_steps_that_do_not_apply_are_told_and_the_rest_is_done(
    flat: str, tmp_path: Path, capsys: Any
) -> None:
    steps = tmp_path / "steps.toml"
    steps.write_text(
        'version = 1\n[[step]]\ndo = "recover"\n[[step]]\ndo = "keep"\nnames = ["nut", "bolt"]\n'
        '[[step]]\ndo = "delete"\nitems = { name = "gone" }\n'
    )
    status, out, _ = run(capsys, "arrange", flat, "--steps", str(steps), "--json")
    result = json.loads(out)
    assert status == 1
    assert [s["outcome"] for s in result["steps"]] == ["done", "done", "not applicable"]
    assert result["steps"][2]["why"] == "there is no item gone"
    assert result["figures"]["after"]["parts"] == 2
    status, out, _ = run(capsys, "arrange", flat, "--steps", str(steps))
    assert status == 1 and "? Products or places go, gone: there is no item gone" in out


def test_nothing_asked_for_and_bad_steps(flat: str, tmp_path: Path, capsys: Any) -> None:
    assert run(capsys, "arrange", flat)[0] == 2
    bad = tmp_path / "bad.toml"
    bad.write_text("version = 9")
    status, _, err = run(capsys, "arrange", flat, "--steps", str(bad))
    assert status == 2 and "no steps file of version 1" in err and str(bad) in err
