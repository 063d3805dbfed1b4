"""Files: what may be read, work in progress that never stays, places that are not taken unasked."""

from __future__ import annotations

import os
import stat
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

from gondrel.core.errors import InputError, LimitExceeded, OutputExists, WriteFailed
from gondrel.core.model.store import write_whole
from gondrel.core.work.archives import check_size
from gondrel.core.work.files import check_places, checked_file, deliver, private_folder, sweep


@pytest.fixture(autouse=True)
def state(tmp_path, monkeypatch) -> Path:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    return tmp_path / "state"


def test_pipes_devices_folders_and_names_that_are_none_are_no_files(tmp_path) -> None:
    os.mkfifo(tmp_path / "pipe")
    (tmp_path / "link").symlink_to("/dev/zero")
    for place, said in (
        (tmp_path / "pipe", "pipe"),
        ("/dev/zero", "device"),
        (tmp_path / "link", "device"),
        (tmp_path, "directory"),
        (tmp_path / "none", "No such file"),
        (tmp_path / ("x" * 300), "name too long"),
        (str(tmp_path / "a\0b"), "null"),
    ):
        with pytest.raises(InputError) as caught:
            checked_file(place)
        assert said.lower() in str(caught.value).lower()
    (tmp_path / "file").write_bytes(b"12345")
    assert checked_file(tmp_path / "file", 5) == tmp_path / "file"
    with pytest.raises(LimitExceeded):
        checked_file(tmp_path / "file", 4)


def test_work_in_progress_is_private_and_gone_afterwards(tmp_path) -> None:
    with private_folder(tmp_path) as folder:
        (folder / "a").write_text("x")
        assert stat.S_IMODE(folder.stat().st_mode) == 0o700
    assert not folder.exists()
    with pytest.raises(RuntimeError), private_folder(tmp_path) as folder:
        raise RuntimeError
    assert not folder.exists()
    assert not list((tmp_path / "state").rglob("*.gondrel-*"))


def test_what_a_killed_process_left_is_swept_and_nothing_else(tmp_path) -> None:
    code = (
        "import os, signal; from pathlib import Path; from gondrel.core.work.files import private_folder\n"
        f"with private_folder(Path({str(tmp_path)!r})) as f:\n"
        "    (f / 'half').write_text('x'); os.kill(os.getpid(), signal.SIGKILL)\n"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == -9
    left = list(tmp_path.glob(".gondrel-*"))
    assert len(left) == 1
    with private_folder(tmp_path) as mine:
        assert sweep() == 1
        assert not left[0].exists() and mine.exists()
    assert sweep() == 0


def test_places_that_are_taken_or_none(tmp_path) -> None:
    (tmp_path / "there").write_text("mine")
    os.mkfifo(tmp_path / "pipe")
    check_places([tmp_path / "new"], force=False)
    with pytest.raises(OutputExists) as caught:
        check_places([tmp_path / "new", tmp_path / "there"], force=False)
    assert caught.value.file.endswith("there") and "--force" in str(caught.value)
    check_places([tmp_path / "there"], force=True)
    for place in (tmp_path / "pipe", Path("/dev/null"), tmp_path, tmp_path / "none" / "a"):
        with pytest.raises(WriteFailed):
            check_places([place], force=True)


def test_links_are_followed_modes_and_the_umask_kept(tmp_path) -> None:
    real, link = tmp_path / "real", tmp_path / "link"
    real.write_text("old")
    real.chmod(0o640)
    link.symlink_to(real)
    write_whole(link, b"new")
    assert link.is_symlink() and real.read_bytes() == b"new"
    assert stat.S_IMODE(real.stat().st_mode) == 0o640
    before = os.umask(0o027)
    try:
        write_whole(tmp_path / "fresh", b"x")
        write_whole(tmp_path / "own", b"x", private=True)
    finally:
        os.umask(before)
    assert stat.S_IMODE((tmp_path / "fresh").stat().st_mode) == 0o640
    assert stat.S_IMODE((tmp_path / "own").stat().st_mode) == 0o600


def test_a_set_of_files_that_can_not_be_placed_changes_nothing(tmp_path) -> None:
    (tmp_path / "a").write_text("old")
    with private_folder(tmp_path) as folder:
        (folder / "a").write_text("new")
        with pytest.raises(WriteFailed):
            deliver({tmp_path / "a": folder / "a", tmp_path / "b": folder / "missing"})
    assert (tmp_path / "a").read_text() == "old" and not (tmp_path / "b").exists()


def test_a_bomb_is_refused_from_its_declared_size(tmp_path) -> None:
    path = tmp_path / "bomb.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("a", b"\0" * 250_000_000)
    with zipfile.ZipFile(path) as archive, pytest.raises(LimitExceeded):
        check_size(archive, str(path))


def test_what_a_process_left_that_nobody_has_asked_about_is_swept_too(tmp_path) -> None:
    """It stays in the table of processes, ended, until its parent asks how."""
    code = (
        "import os, signal; from pathlib import Path; from gondrel.core.work.files import private_folder\n"
        f"with private_folder(Path({str(tmp_path)!r})) as f:\n"
        "    os.kill(os.getpid(), signal.SIGKILL)\n"
    )
    process = subprocess.Popen([sys.executable, "-c", code])
    os.waitid(os.P_PID, process.pid, os.WEXITED | os.WNOWAIT)
    assert Path(f"/proc/{process.pid}").exists() and list(tmp_path.glob(".gondrel-*"))
    assert sweep() == 1
    assert not list(tmp_path.glob(".gondrel-*"))
    process.wait()
