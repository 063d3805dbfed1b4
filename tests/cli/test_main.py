"""The command line: shapes of the contract, exit statuses, errors."""

from __future__ import annotations

import gzip
import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from gondrel import __version__
from gondrel.cli.main import main
from gondrel.core.service.catalogue import target_kinds
from gondrel.core.service.settings import CHECK_KEYS, SEND_KEYS
from gondrel.core.work.log import log_file

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


# --- the program as a process ----------------------------------------------------------------------


def program(*arguments: str, given: bytes | None = None) -> subprocess.CompletedProcess[bytes]:
    command = [sys.executable, "-m", "gondrel", *arguments]
    return subprocess.run(command, input=given, capture_output=True, check=False, timeout=300)


@pytest.mark.parametrize("after", [0.0, 2.0])
@pytest.mark.parametrize(("number", "status"), [(signal.SIGINT, 130), (signal.SIGTERM, 143)])
def test_a_signal_ends_it_with_everything_cleaned_up(
    number, status, after, as1: str, tmp_path: Path
) -> None:
    out = tmp_path / "out.stp"
    command = [sys.executable, "-m", "gondrel", "send", as1, "--as", "step-ap242", "--out", str(out)]
    process = subprocess.Popen(
        command, stdout=subprocess.PIPE, stderr=subprocess.PIPE,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.default_int_handler),
    )  # fmt: skip
    children: list[str] = []
    deadline = time.monotonic() + 300
    while not children and time.monotonic() < deadline:
        time.sleep(0.1)
        tasks = Path(f"/proc/{process.pid}/task").glob("*/children")
        children = [child for task in tasks for child in task.read_text().split()]
    time.sleep(after)
    process.send_signal(number)
    _, said = process.communicate(timeout=300)
    assert process.returncode == status and b"nothing was written" in said
    assert not out.exists()
    assert not [p for p in tmp_path.iterdir() if p.name.startswith(".gondrel-")]
    assert children and not any(Path(f"/proc/{child}").exists() for child in children)


def test_status_1_for_findings_and_2_for_what_can_not_be_read(as1: str, tmp_path: Path) -> None:
    bad = tmp_path / "bad.stp"
    bad.write_bytes(Path(as1).read_bytes()[:5000])
    done = program("check", as1, str(bad), "--json")
    found = json.loads(done.stdout)["files"]
    assert done.returncode == 2 and len(found) == 2, "one that fails does not stop the rest"
    assert "counts" in found[0] and found[1]["error"]["code"] == "malformed-file"
    assert done.stderr.count(b"\n") == 1 and b"bad.stp" in done.stderr
    assert program("check", as1).returncode == 0
    assert program("check", as1, "--set", "size_box=10").returncode == 1, (
        "something is outside so small a box"
    )


def test_standard_input_and_output(as1: str, tmp_path: Path) -> None:
    data = Path(as1).read_bytes()
    done = program("inspect", "-", "--json", given=data)
    assert done.returncode == 0 and json.loads(done.stdout)["totals"]["placed_solids"] == 18
    assert program("inspect", "-", given=b"").returncode == 2
    sent = program("send", "-", "--as", "xt-text", "--out", "-", given=data)
    assert sent.returncode == 0 and sent.stdout.startswith(b"**ABCDEFGHIJKLMNOPQRSTUVWXYZ")
    assert b"Proof: " in sent.stderr and b"Written: standard output" in sent.stderr
    (tmp_path / "back.x_t").write_bytes(sent.stdout)
    assert program("inspect", str(tmp_path / "back.x_t")).returncode == 0
    both = program("send", "-", "--as", "xt-text", "--out", "-", "--json", given=data)
    assert both.returncode == 2 and b"--json" in both.stderr


def test_a_packed_file_is_read_as_what_it_holds(capsys, as1: str, tmp_path: Path) -> None:
    packed = tmp_path / "as1.stp.gz"
    packed.write_bytes(gzip.compress(Path(as1).read_bytes()))
    status, out, _ = run(capsys, "inspect", str(packed), "--json")
    found = json.loads(out)
    assert status == 0 and found["totals"]["placed_solids"] == 18
    assert found["file"]["path"] == str(packed) and found["file"]["bytes"] == packed.stat().st_size
    packed.write_bytes(packed.read_bytes()[:-2000])
    status, out, err = run(capsys, "inspect", str(packed), "--json")
    assert status == 2 and "cut off" in err and json.loads(out)["error"]["file"] == str(packed)


def test_the_ending_says_the_kind_where_it_can(capsys, as1: str, tmp_path: Path) -> None:
    out = str(tmp_path / "as1.x_t")
    status, text, err = run(capsys, "send", as1, "--out", out)
    assert status == 0 and err == "" and f"Written: {out}" in text
    status, _, err = run(capsys, "send", as1, "--out", str(tmp_path / "as1.stp"))
    assert status == 2 and "several kinds" in err and "step-ap203" in err
    status, _, err = run(capsys, "send", as1, "--out", str(tmp_path / "as1.stp"), "--as", "xt-text")
    assert status == 0 and "stands for STEP" in err and ".x_t is usual" in err
    status, _, err = run(capsys, "send", as1, "--out", str(tmp_path / "as1.odd"))
    assert status == 2 and "no format that can be written" in err


def test_what_is_there_is_not_replaced_unasked(capsys, as1: str, tmp_path: Path) -> None:
    there = tmp_path / "there.x_t"
    there.write_text("mine")
    link = tmp_path / "link.x_t"
    link.symlink_to(there)
    for place in (there, link):
        status, _, err = run(capsys, "send", as1, "--out", str(place))
        assert status == 2 and "there already" in err and "--force" in err and there.read_text() == "mine"
    status, _, _ = run(capsys, "send", as1, "--out", str(link), "--force")
    assert status == 0 and link.is_symlink() and there.read_text(errors="replace").startswith("**ABC")
    pipe = tmp_path / "pipe.x_t"
    os.mkfifo(pipe)
    for place, said in (
        (pipe, "pipe or a device"),
        (tmp_path, "is a folder"),
        (tmp_path / "no" / "x.x_t", "folder"),
    ):
        status, _, err = run(capsys, "send", as1, "--out", str(place), "--as", "xt-text", "--force")
        assert status == 2 and said in err


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("inspct", "x.stp"), "did you mean inspect?"),
        (("frobnicate",), "commands are inspect"),
        (("inspect", "x.stp", "--jsn"), "--json"),
        (("inspect", "x.stp", "--set", "colour=no"), "colours"),
        (("inspect", "x.stp", "--limit-seconds", "many"), "valid integer"),
        (("inspect", "-", "-"), "only once"),
    ],
)
def test_wrong_calls_say_what_may_have_been_meant(capsys, arguments, said) -> None:
    status, out, err = run(capsys, *arguments)
    assert status == 2 and out == "" and said in err and err.count("\n") == 1


@pytest.mark.parametrize("command", ["inspect", "check", "mend", "send", "prove"])
def test_help_is_complete(capsys, command) -> None:
    status, out, _ = run(capsys, command, "--help")
    assert status == 0 and "Exit status" in out and "gondrel " + command in out
    if command == "send":
        kinds = [choice.kind for choice in target_kinds()]
        assert all(kind in out for kind in kinds)
        assert all(f"{key.name}=" in out for key in SEND_KEYS)
    if command == "mend":
        assert all(f"check.{key.name}=" in out for key in CHECK_KEYS)


def test_version_and_completion(capsys) -> None:
    assert run(capsys, "--version") == (0, f"gondrel {__version__}\n", "")
    environment = {
        **os.environ,
        "_GONDREL_COMPLETE": "complete_bash",
        "COMP_WORDS": "gondrel ins",
        "COMP_CWORD": "1",
    }
    done = subprocess.run(
        [sys.executable, "-m", "gondrel"], env=environment, capture_output=True, text=True, check=False
    )
    assert done.stdout.split() == ["inspect"]


def test_what_went_wrong_within_is_in_the_log(capsys, tmp_path, monkeypatch, as1: str) -> None:
    monkeypatch.setattr("gondrel.cli.calls._COMMANDS", "tests.cli.failing")
    status, _, err = run(capsys, "inspect", as1)
    assert status == 2 and "internal error" in err and "Traceback" not in err
    assert "Traceback" in log_file().read_text() and "on purpose" in log_file().read_text()
