"""What a batch does is planned, kept and told."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from gondrel.core.errors import InputError, UsageError
from gondrel.core.service.batch import (
    JOURNAL,
    Journal,
    Outcome,
    Task,
    choices_text,
    counts_of,
    found_files,
    keep_table,
    plan,
)
from gondrel.core.work.files import sha256_of_file


def test_files_are_found_and_told_apart(tmp_path: Path) -> None:
    for name in ("a.stp", "A.step", "sub/a.STP", "sub/b.txt", "out/c.stp", "d.x_t"):
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).write_text("x")
    found = found_files(str(tmp_path), beside=str(tmp_path / "out"))
    assert [str(Path(p).relative_to(tmp_path)) for p in found] == ["A.step", "a.stp", "d.x_t", "sub/a.STP"]
    assert len(found_files(str(tmp_path), pattern="*.x_t", recursive=False)) == 1
    tasks = plan(found, str(tmp_path), "out", ".igs")
    assert [t.target for t in tasks] == ["out/A.igs", "out/a-2.igs", "out/d.igs", "out/sub/a.igs"]
    with pytest.raises(InputError):
        found_files(str(tmp_path / "none"))


def test_what_was_done_is_known_again_until_something_changes(tmp_path: Path) -> None:
    task = Task("in.stp", str(tmp_path / "out.x_t"))
    Path(task.target).write_text("sent")
    one = choices_text("xt-text", frozenset({"b", "a", "c"}))
    assert one == choices_text("xt-text", frozenset({"c", "b", "a"})) != choices_text("xt-binary")
    outcome = Outcome(
        task.source, task.target, "carried", 1.0, "", 0, "aa", one, sha256_of_file(task.target)
    )
    Journal(str(tmp_path)).add(outcome)
    with (tmp_path / JOURNAL).open("a") as stream:
        stream.write('{"source": "half a li')
    journal = Journal(str(tmp_path))
    assert journal.done(task, "aa", one) == outcome and journal.targets() == {task.target}
    assert journal.done(task, "bb", one) is None and journal.done(task, "aa", "other") is None
    Path(task.target).write_text("changed")
    assert journal.done(task, "aa", one) is None


def test_the_table_is_kept(tmp_path: Path) -> None:
    outcomes = [Outcome("a.stp", "a.x_t", "carried", 1.25), Outcome("=b.stp", "", "failed", 0.5, "<no>")]
    assert counts_of(outcomes) == {"carried": 1, "altered": 0, "lost": 0, "failed": 1}
    for suffix in ("csv", "xlsx", "html"):
        keep_table(str(tmp_path / f"t.{suffix}"), outcomes)
    rows = list(csv.reader((tmp_path / "t.csv").read_text("utf-8-sig").splitlines()))
    assert rows[1][:3] == ["a.stp", "a.x_t", "carried"] and rows[2][0] == "'=b.stp"
    assert "&lt;no&gt;" in (tmp_path / "t.html").read_text("utf-8")
    with pytest.raises(UsageError):
        keep_table(str(tmp_path / "t.doc"), outcomes)
