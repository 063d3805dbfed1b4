"""Rings of references are collected while nobody waits for the window."""

from __future__ import annotations

import gc
import weakref
from collections.abc import Iterator

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtGui import QCursor

from gondrel.ui.session import collecting as module
from gondrel.ui.session.collecting import Collecting
from gondrel.ui.shell.application import make_application

pytestmark = pytest.mark.window


class _Ring:
    def __init__(self) -> None:
        self.itself = self


@pytest.fixture
def busy() -> list[bool]:
    return []


@pytest.fixture
def collecting(busy: list[bool]) -> Iterator[Collecting]:
    made = Collecting(lambda: bool(busy), make_application())
    made._timer.stop()  # looked by hand here
    for _ in range(module._RESTS):
        made.look()
    gc.collect()
    yield made
    made.deleteLater()


def _litter(count: int) -> weakref.ref[_Ring]:
    rings = [_Ring() for _ in range(count)]
    return weakref.ref(rings[0])


def test_nothing_is_collected_in_the_middle_of_work(collecting: Collecting, busy: list[bool]) -> None:
    busy.append(True)
    ring = _litter(100_000)
    assert not gc.isenabled()
    assert not collecting.look()
    assert ring() is not None
    busy.clear()
    assert [collecting.look() for _ in range(module._RESTS)] == [False] * (module._RESTS - 1) + [True]
    assert ring() is None


def test_it_waits_until_the_pointer_rests(collecting: Collecting) -> None:
    ring = _litter(100_000)
    QCursor.setPos(QCursor.pos() + QPoint(40, 30))
    assert not collecting.look()
    assert ring() is not None
    assert any(collecting.look() for _ in range(module._RESTS))
    assert ring() is None


def test_little_is_left_for_later(collecting: Collecting) -> None:
    ring = _litter(10)
    assert not collecting.look()
    assert ring() is not None


def test_too_much_does_not_wait(
    collecting: Collecting, busy: list[bool], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(module, "_TOO_MANY", 100_000)
    busy.append(True)
    ring = _litter(150_000)
    assert collecting.look()
    assert ring() is None
