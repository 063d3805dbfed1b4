"""Fixtures: outside files, a store, small models, the demo and a window."""

from __future__ import annotations

import gzip
import os
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

ROOT = Path(__file__).parent.parent
AS1 = "usr/share/doc/gmsh-doc/doc/gmsh/demos/api/as1-tu-203.stp.gz"
"""An assembly of the open STEP test set, with the sender's own validation properties; package gmsh-doc."""

OCCT = "usr/share/opencascade/data/step"
"""Parts that ship with the kernel's data; package occt-misc."""

LONG = (
    "scripts/test_examples.py",
    "cli/test_registered.py",
    "journeys/test_xt.py",
    "journeys/test_iges.py",
)
"""Files of minutes each. They come first, so that no process works alone on one at the end."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    def rank(item: pytest.Item) -> int:
        name = item.path.relative_to(ROOT / "tests").as_posix()
        return LONG.index(name) if name in LONG else len(LONG)

    items.sort(key=rank)


def outside(path: str) -> Path:
    """A file of a Debian package, installed or unpacked by ./test."""
    for base in (Path("/"), ROOT / ".testdata"):
        if (base / path).exists():
            return base / path
    raise FileNotFoundError(f"{path}: run ./test, which installs gmsh-doc and occt-misc")


@pytest.fixture(scope="session")
def as1(tmp_path_factory: pytest.TempPathFactory) -> str:
    target = tmp_path_factory.mktemp("as1") / "as1-tu-203.stp"
    target.write_bytes(gzip.decompress(outside(AS1).read_bytes()))
    return str(target)


@pytest.fixture(scope="session")
def occt_files() -> list[str]:
    return sorted(str(p) for p in outside(OCCT).glob("*.step"))


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory: pytest.TempPathFactory) -> str:
    from gondrel.demo.make import make_demo

    return make_demo(str(tmp_path_factory.mktemp("demo")))


@pytest.fixture
def store_folder(tmp_path: Path) -> str:
    folder = tmp_path / "store"
    folder.mkdir()
    return str(folder)


@pytest.fixture(autouse=True)
def own_state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Every test has its own state folder."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))


def wait_until(condition: Callable[[], bool], seconds: float = 60.0) -> None:
    """Run the event loop until a condition holds. Fails when it does not in time."""
    from PySide6.QtTest import QTest

    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "waited in vain"
        QTest.qWait(15)


def choose_in(box: Any, data: Any) -> None:
    """Choose what stands in a box by the keyboard, as a user would who tabs to it."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    place = box.findData(data)
    assert place >= 0, f"{data} is not offered"
    wait_until(box.isVisible, 10)
    box.setFocus()
    for _ in range(2 * box.count()):
        QTest.qWait(20)  # what was shown before may still be settling
        if box.currentIndex() != place:
            QTest.keyClick(box, Qt.Key.Key_Down if box.currentIndex() < place else Qt.Key.Key_Up)
    assert box.currentIndex() == place, f"{box.accessibleName()} can't be set to {data} by the keyboard"


def settle(session: Any) -> None:
    """Run the event loop until a session has no job, nothing to save and nothing left to show."""
    from PySide6.QtTest import QTest

    wait_until(
        lambda: not session.tasks.running and not session.persistence.busy and not session.deferred.waiting,
        120,
    )
    QTest.qWait(150)
    wait_until(lambda: not session.tasks.running and not session.deferred.waiting, 120)


@pytest.fixture
def window() -> Iterator[Any]:
    """A shown window with warm workers, closed afterwards."""
    if not os.environ.get("DISPLAY"):
        pytest.fail("tests of the window need a display; run ./test, which brings Xvfb")
    from gondrel.ui.shell.application import make_application, open_window

    make_application()
    opened = open_window()
    wait_until(lambda: opened.stage is not None and bool(opened.session.targets))
    opened.settings.change(checks_idle=False)  # else what tests look at may change beside them
    opened.activateWindow()  # there is no window manager to do it
    wait_until(opened.isActiveWindow, 10)
    yield opened
    opened.close()
    opened.deleteLater()
