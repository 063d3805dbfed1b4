"""Entry, metadata and file types are valid by the tools for them, and go as they came."""

from __future__ import annotations

import os
import shutil
import subprocess

import pytest

from tests.conftest import ROOT

DESKTOP = ROOT / "gondrel" / "ui" / "resources" / "desktop"


def tool(*command: str, **more: object) -> subprocess.CompletedProcess[str]:
    if shutil.which(command[0]) is None:
        pytest.skip(f"{command[0]} is not installed; ./test installs it")
    return subprocess.run(command, capture_output=True, encoding="utf-8", check=False, **more)  # type: ignore[call-overload]


@pytest.fixture
def installed(tmp_path):
    """The folder that things were installed into."""
    script = ". scripts/desktop.sh; say() { :; }; install_desktop"
    environment = {**os.environ, "XDG_DATA_HOME": str(tmp_path / "data")}
    done = subprocess.run(["bash", "-c", script], cwd=ROOT, env=environment, check=False)
    assert done.returncode == 0
    return tmp_path / "data", environment


def test_the_entry_is_valid(installed) -> None:
    folder, _ = installed
    done = tool("desktop-file-validate", str(folder / "applications" / "gondrel.desktop"))
    assert done.returncode == 0 and done.stdout == ""


def test_the_metadata_is_valid() -> None:
    done = tool("appstreamcli", "validate", "--no-net", str(DESKTOP / "gondrel.metainfo.xml"))
    assert done.returncode == 0, done.stdout


def test_the_file_types_are_taken(installed) -> None:
    folder, environment = installed
    done = tool("update-mime-database", str(folder / "mime"), env=environment)
    assert done.returncode == 0 and done.stderr == ""
    globs = (folder / "mime" / "globs").read_text("utf-8")
    for ending in ("stp", "igs", "x_t", "x_b", "stl", "obj", "3mf", "crossing"):
        assert f":*.{ending}\n" in globs


def test_the_validators_can_fail(tmp_path) -> None:
    bad = tmp_path / "bad.desktop"
    bad.write_text("[Desktop Entry]\nType=Application\n")
    assert tool("desktop-file-validate", str(bad)).returncode != 0
    meta = tmp_path / "bad.metainfo.xml"
    meta.write_text((DESKTOP / "gondrel.metainfo.xml").read_text().replace("<name>Gondrel</name>", ""))
    assert tool("appstreamcli", "validate", "--no-net", str(meta)).returncode != 0


def test_what_was_installed_is_removed(installed) -> None:
    folder, environment = installed
    subprocess.run(
        ["bash", "-c", ". scripts/desktop.sh; say() { :; }; remove_desktop"],
        cwd=ROOT, env=environment, check=True,
    )  # fmt: skip
    assert [p for p in folder.rglob("*gondrel*") if "mime/application" not in str(p)] == []
