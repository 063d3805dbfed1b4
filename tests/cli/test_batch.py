"""``gondrel batch``: bad files fail by themselves, what was done is not done again."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any

import pytest

from gondrel.cli.main import main

pytestmark = pytest.mark.slow


def run(capsys: Any, *arguments: str) -> tuple[int, dict[str, Any]]:
    status = main(["batch", *arguments, "--json"])
    return status, json.loads(capsys.readouterr().out)


@pytest.fixture
def folder(as1: str, tmp_path: Path) -> Path:
    """Three files that can be sent, one that is none, one that is empty."""
    inner = tmp_path / "in"
    (inner / "sub").mkdir(parents=True)
    for name in ("a.stp", "b.stp", "sub/c.stp"):
        (inner / name).write_bytes(Path(as1).read_bytes())
    (inner / "bad.stp").write_text("no model")
    (inner / "empty.stp").write_bytes(b"")
    return inner


def test_a_folder_is_sent_and_what_was_done_is_not_done_again(folder: Path, capsys: Any) -> None:
    out, table = folder.parent / "out", folder.parent / "table.csv"
    given = (str(folder), "--to", str(out), "--as", "xt-text", "--workers", "2", "--table", str(table))
    status, first = run(capsys, *given)
    assert status == 1 and first["counts"]["failed"] == 2
    assert sum(first["counts"].values()) == 5 and (out / "sub" / "c.x_t").stat().st_size > 1000
    reasons = {Path(f["path"]).name: f.get("error", "") for f in first["files"]}
    assert "not a file Gondrel can read" in reasons["bad.stp"] and "empty" in reasons["empty.stp"]
    before = {p: p.stat().st_mtime_ns for p in out.rglob("*.x_t")}
    (folder / "b.stp").write_bytes((folder / "b.stp").read_bytes() + b"\n")
    _, second = run(capsys, *given)
    again = {Path(f["path"]).name: f["again"] for f in second["files"]}
    assert again == {"a.stp": True, "b.stp": False, "c.stp": True, "bad.stp": False, "empty.stp": False}
    changed = {p.name for p in before if p.stat().st_mtime_ns != before[p]}
    assert changed == {"b.x_t"} and len(table.read_text("utf-8-sig").splitlines()) == 6


def test_a_worker_that_dies_or_never_ends_fails_its_file_alone(folder: Path, capsys: Any) -> None:
    """A file too large for its time is ended by the limit; a killed worker is started anew."""
    out = folder.parent / "out"
    status, made = run(capsys, str(folder), "--to", str(out), "--as", "xt-text", "--limit-seconds", "1",
                       "--workers", "1")  # fmt: skip
    failed = [f for f in made["files"] if f["verdict"] == "failed"]
    slow = [f for f in failed if "longer than the 1 s" in f["error"]]
    assert status == 1 and slow and all(f["error"] for f in failed)
    assert sum(made["counts"].values()) == 5


def test_a_stranger_in_the_way_is_not_replaced(folder: Path, capsys: Any) -> None:
    out = folder.parent / "out"
    out.mkdir()
    (out / "a.x_t").write_text("mine")
    assert main(["batch", str(folder), "--to", str(out), "--as", "xt-text"]) == 2
    assert "is there already" in capsys.readouterr().err and (out / "a.x_t").read_text() == "mine"


def test_a_drop_folder_is_watched_until_it_is_ended(as1: str, tmp_path: Path) -> None:
    drop, out = tmp_path / "drop", tmp_path / "out"
    drop.mkdir()
    process = subprocess.Popen(
        [sys.executable, "-m", "gondrel", "batch", str(drop), "--to", str(out), "--as", "xt-text",
         "--watch"],
        stderr=subprocess.PIPE, text=True, env={**os.environ},
    )  # fmt: skip
    try:
        time.sleep(3)
        (drop / "late.stp").write_bytes(Path(as1).read_bytes())
        end = time.monotonic() + 600
        while not (out / "late.x_t").exists() and time.monotonic() < end:
            time.sleep(0.2)
        assert (out / "late.x_t").exists()
    finally:
        process.terminate()  # SIGINT is ignored where the tests are run in the background
        assert process.wait(120) == 0


def test_a_cluster_gives_the_same_though_a_worker_is_killed(folder: Path, capsys: Any) -> None:
    """A scheduler and two workers on this machine; one is killed while it works."""
    from distributed import LocalCluster

    out = folder.parent / "out"
    with LocalCluster(
        n_workers=2, threads_per_worker=1, dashboard_address=None, host="127.0.0.1"
    ) as cluster:

        def kill() -> None:
            time.sleep(4)
            os.kill(next(iter(cluster.workers.values())).process.pid, signal.SIGKILL)

        threading.Thread(target=kill, daemon=True).start()
        status, made = run(
            capsys, str(folder), "--to", str(out), "--as", "xt-text",
            "--scheduler", cluster.scheduler_address,
        )  # fmt: skip
    verdicts = {Path(f["path"]).name: f["verdict"] for f in made["files"]}
    assert status == 1 and {name for name, v in verdicts.items() if v == "failed"} == {
        "bad.stp",
        "empty.stp",
    }
    assert all((out / name).stat().st_size > 1000 for name in ("a.x_t", "b.x_t", "sub/c.x_t"))
    assert (
        main(
            ["batch", str(folder), "--to", str(out), "--as", "xt-text", "--scheduler", "tcp://127.0.0.1:1"]
        )
        == 2
    )
