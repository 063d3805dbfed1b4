"""The package as it is built starts in an environment of its own, the commands without the window too."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import sysconfig
import venv
import zipfile
from pathlib import Path

import pytest

from tests.conftest import ROOT

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def wheel(tmp_path_factory) -> Path:
    """The wheel, built from a copy of the sources."""
    copy = tmp_path_factory.mktemp("build")
    for name in ("gondrel", "docs"):
        shutil.copytree(
            ROOT / name, copy / name, ignore=shutil.ignore_patterns("__pycache__", "screenshots")
        )
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, copy / name)
    command = [
        sys.executable,
        "-m",
        "pip",
        "wheel",
        "--no-deps",
        "--no-build-isolation",
        "-q",
        "-w",
        "out",
        ".",
    ]
    done = subprocess.run([*command, "."], cwd=copy, capture_output=True, encoding="utf-8", check=False)
    assert done.returncode == 0, done.stderr
    (made,) = (copy / "out").glob("gondrel-*.whl")
    return made


@pytest.fixture(scope="module")
def installed(wheel, tmp_path_factory) -> Path:
    """The bin folder of a fresh environment with the wheel; what it needs is lent by the one that tests."""
    place = tmp_path_factory.mktemp("fresh") / "env"
    venv.create(place, with_pip=True)
    python = place / "bin" / "python"
    done = subprocess.run(
        [str(python), "-m", "pip", "install", "--no-deps", "--no-index", "-q", str(wheel)],
        capture_output=True, encoding="utf-8", check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    (site,) = (place / "lib").glob("python*/site-packages")
    (site / "lent.pth").write_text(sysconfig.get_path("purelib"))
    return place / "bin"


def test_the_wheel_holds_what_is_needed_at_run_time(wheel) -> None:
    names = set(zipfile.ZipFile(wheel).namelist())
    for wanted in (
        "gondrel/py.typed",
        "gondrel/core/reports/page.html",
        "gondrel/core/service/saved/crossing-1.json",
        "gondrel/ui/resources/icons/gondrel.svg",
    ):
        assert wanted in names
    assert any(name.endswith("share/man/man1/gondrel.1") for name in names)
    meta = next(n for n in names if n.endswith("METADATA"))
    said = zipfile.ZipFile(wheel).read(meta).decode()
    needed = [
        line for line in said.splitlines() if line.startswith("Requires-Dist:") and "extra" not in line
    ]
    assert not any(line.split()[1].startswith(("PySide6", "vtk")) for line in needed), (
        "the window is an extra"
    )
    assert "Provides-Extra: gui" in said


def test_it_starts(installed, as1: str, tmp_path: Path) -> None:
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONPATH"}
    done = subprocess.run(
        [str(installed / "gondrel"), "inspect", as1], cwd=tmp_path, env=environment, capture_output=True,
        encoding="utf-8", check=False,
    )  # fmt: skip
    assert done.returncode == 0 and "18 placed" in done.stdout
    where = subprocess.run(
        [str(installed / "python"), "-c", "import gondrel.ui.shell.window as w; print(w.__file__)"],
        cwd=tmp_path, env=environment, capture_output=True, encoding="utf-8", check=False,
    )  # fmt: skip
    assert str(installed.parent) in where.stdout, where.stderr


def test_without_the_window_the_commands_work_and_it_says_what_is_missing(
    installed, tmp_path: Path
) -> None:
    hidden = (
        "import sys; sys.modules['PySide6'] = None; from gondrel.cli.main import main; sys.exit(main({}))"
    )
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONPATH"}
    python = str(installed / "python")
    done = subprocess.run(
        [python, "-c", hidden.format("['--demo']")], cwd=tmp_path, env=environment, capture_output=True,
        encoding="utf-8", check=False,
    )  # fmt: skip
    assert done.returncode == 2 and "gondrel[gui]" in done.stderr
    help_ = subprocess.run(
        [python, "-c", hidden.format("['inspect', '--help']")], cwd=tmp_path, env=environment,
        capture_output=True, encoding="utf-8", check=False,
    )  # fmt: skip
    assert help_.returncode == 0 and "Exit status" in help_.stdout
