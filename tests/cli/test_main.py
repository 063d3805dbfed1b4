"""The command line: shapes of the contract, exit statuses, errors."""

from __future__ import annotations

import json
import signal
import subprocess
import sys
from pathlib import Path

import pytest

from gondrel.cli.main import main

pytestmark = pytest.mark.slow


def run(capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[int, str, str]:
    status = main(arguments)
    said = capsys.readouterr()
    return status, said.out, said.err


def test_inspect_prints_one_object(capsys, as1: str) -> None:
    status, out, _ = run(capsys, "inspect", as1, "--json")
    found = json.loads(out)
    assert status == 0
    assert found["file"]["length_unit"] == "mm"
    assert found["totals"]["placed_solids"] == 18
    assert set(found) >= {"file", "products", "roots", "totals", "missing_files", "notes"}
    first = found["products"][found["roots"][0]]
    assert set(first) >= {"number", "name", "revision", "description", "material", "metadata", "bodies"}
    assert len(first["children"][0]["placement"]) == 16


def test_inspect_for_people_names_the_parts(capsys, as1: str) -> None:
    status, out, _ = run(capsys, "inspect", as1)
    assert status == 0
    assert "9 products" in out
    assert "l-bracket" in out


def test_send_tells_forecast_and_proof_and_then_prove_agrees(capsys, as1: str, tmp_path: Path) -> None:
    out = str(tmp_path / "out.stp")
    status, text, _ = run(capsys, "send", as1, "--out", out, "--as", "step-ap203", "--json")
    sent = json.loads(text)
    assert status == 0, "losses that were announced are no reason to fail"
    assert sent["sent"][0]["path"] == out
    assert {f["thing"] for f in sent["forecast"] if f["fate"] == "lost"} >= {"colours", "layers"}
    assert sent["proof"]["unannounced_losses"] == sent["proof"]["false_alarms"] == 0
    status, text, _ = run(capsys, "prove", as1, out, "--json")
    proof = json.loads(text)
    assert status == 1
    assert proof["verdict"] == "lost"
    assert all(entry["announced"] is None for entry in proof["ledger"])


def test_forecast_only_writes_nothing(capsys, as1: str, tmp_path: Path) -> None:
    status, text, _ = run(capsys, "send", as1, "--as", "step-ap214", "--forecast-only", "--json")
    assert status == 0
    assert set(json.loads(text)).isdisjoint({"sent", "proof"})
    assert list(tmp_path.iterdir()) == [p for p in tmp_path.iterdir() if p.name in ("state", "config")]


@pytest.mark.parametrize(
    ("arguments", "code", "said"),
    [
        (("inspect", "/no/such/file.stp"), "InputError", "can't be opened"),
        (("send", "{as1}", "--as", "step-ap999", "--out", "{tmp}/x.stp"), "UsageError", "unknown kind"),
        (("send", "{as1}", "--as", "step-ap242"), "UsageError", "--out is missing"),
        (("send", "{as1}", "--as", "step-ap242", "--out", "{tmp}/x.stp", "--set", "unit"), "UsageError",
         "KEY"),
        (("send", "{as1}", "--as", "step-ap242", "--out", "{tmp}/x.stp", "--set", "unit=ell"), "UsageError",
         "unknown unit"),
        (("send", "{as1}", "--as", "step-ap242", "--out", "{as1}"), "InputError", "must not be"),
        (("inspect",), "UsageError", "required"),
    ],
)  # fmt: skip
def test_wrong_calls_and_files_exit_with_2_and_one_line(
    capsys, as1: str, tmp_path: Path, arguments: tuple[str, ...], code: str, said: str
) -> None:
    given = [a.format(as1=as1, tmp=tmp_path) for a in arguments]
    status, out, err = run(capsys, *given, "--json")
    assert status == 2
    error = json.loads(out)["error"]
    assert set(error) >= {"code", "message", "file", "where"}
    assert said in error["message"]
    assert err.startswith("gondrel: ")
    assert err.count("\n") == 1


def test_a_reader_that_has_read_enough_ends_it_quietly(as1: str) -> None:
    command = [sys.executable, "-m", "gondrel.cli.main", "inspect", as1]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    assert process.stdout is not None and process.stderr is not None
    process.stdout.close()
    assert process.wait(120) == 128 + signal.SIGPIPE
    assert process.stderr.read() == b""
