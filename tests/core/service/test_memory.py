"""What reading a file takes of the memory is told before it is read, and a worker gets no more than there
is."""

from __future__ import annotations

import resource
from pathlib import Path

import pytest

from gondrel.core.service import memory
from gondrel.core.service.cards import file_card
from gondrel.core.service.memory import memory_doubts, memory_note, needed_megabytes
from gondrel.core.work import machine
from gondrel.jobs.limits import limits_for, most_megabytes

ROWS = 60_000


@pytest.fixture
def long_file(tmp_path: Path) -> str:
    """A STEP file of many points."""
    path = tmp_path / "points.stp"
    head = (
        "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\n"
        "FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n"
    )
    rows = "".join(f"#{n}=CARTESIAN_POINT('',({n}.,0.,0.));\n" for n in range(1, ROWS + 1))
    path.write_text(head + rows + "ENDSEC;\nEND-ISO-10303-21;\n")
    return str(path)


def test_what_a_file_needs_comes_from_its_records(long_file: str, tmp_path: Path) -> None:
    needed = needed_megabytes(long_file)
    assert needed is not None
    assert needed - 300 == pytest.approx(1.5e-3 * ROWS, rel=0.05)
    small = tmp_path / "small.stp"
    small.write_text("ISO-10303-21;")
    assert needed_megabytes(str(small)) is None


def test_it_is_told_only_where_there_is_less(long_file: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(memory, "free_megabytes", lambda: 100_000)
    assert memory_note(long_file) is None
    monkeypatch.setattr(memory, "free_megabytes", lambda: None)
    assert memory_note(long_file) is None
    monkeypatch.setattr(memory, "free_megabytes", lambda: 350)
    note = memory_note(long_file)
    assert note is not None
    assert "0.4 GB of memory, and 0.3 GB are free" in note.text or "0.4 GB are free" in note.text
    assert note.text.endswith("shapes come when they are asked for")
    assert [n.code for n in file_card(long_file).notes].count("memory-short") == 1
    assert memory_doubts([long_file, "not there"]) == [f"points.stp: {note.text}"]


def test_a_worker_gets_what_the_machine_has(long_file: str, monkeypatch: pytest.MonkeyPatch) -> None:
    free = machine.free_megabytes()
    assert free is not None
    pages = resource.getpagesize()
    assert 0 < free < 1e-6 * pages * _physical_pages()
    monkeypatch.setattr("gondrel.jobs.limits.free_megabytes", lambda: 1000)
    assert most_megabytes() == 800
    assert limits_for([long_file])[1] == 800
    monkeypatch.setattr("gondrel.jobs.limits.free_megabytes", lambda: None)
    assert limits_for([long_file])[1] > 2500


def test_the_limit_of_a_group_of_processes_counts(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "memory.max").write_text("900000000\n")
    (tmp_path / "memory.current").write_text("600000000\n")
    monkeypatch.setattr(machine, "_GROUP", tmp_path)
    assert machine.free_megabytes() == 300
    (tmp_path / "memory.max").write_text("max\n")
    monkeypatch.setattr(machine, "_MEMORY", tmp_path / "none")
    assert machine.free_megabytes() is None


def _physical_pages() -> int:
    import os

    return os.sysconf("SC_PHYS_PAGES")
