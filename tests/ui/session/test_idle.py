"""Threads that give way to the one that draws."""

from __future__ import annotations

import threading
import time

import pytest
from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtTest import QTest

from gondrel.ui.session import idle as module
from gondrel.ui.session.idle import Idle
from gondrel.ui.shell.application import make_application

pytestmark = pytest.mark.window


@pytest.fixture
def idle() -> Idle:
    make_application()
    made = Idle()
    QTest.qWait(5)  # the event loop has turned, and has something to do from here on
    return made


def test_a_thread_goes_on_once_the_event_loop_waits(idle: Idle, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "_AT_MOST", 60.0)
    passed = threading.Event()
    thread = threading.Thread(target=lambda: (idle.give_way(), passed.set()), daemon=True)
    thread.start()
    assert not passed.wait(0.3)  # this is the thread that draws, and it is at work
    loop = QEventLoop()
    QTimer.singleShot(200, loop.quit)
    loop.exec()
    assert passed.wait(10)


def test_a_thread_gives_way_to_what_the_event_loop_has_called(
    idle: Idle, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(module, "_AT_MOST", 60.0)
    passed, seen = threading.Event(), []
    loop = QEventLoop()

    def called() -> None:
        threading.Thread(target=lambda: (idle.give_way(), passed.set()), daemon=True).start()
        seen.append(passed.wait(0.3))

    QTimer.singleShot(20, called)
    QTimer.singleShot(600, loop.quit)
    loop.exec()
    assert seen == [False]
    assert passed.wait(10)


def test_a_thread_gives_way_for_a_moment_at_most(idle: Idle) -> None:
    passed = threading.Event()
    threading.Thread(target=lambda: (idle.give_way(), passed.set()), daemon=True).start()
    assert passed.wait(10)


def test_the_thread_that_draws_does_not_wait_for_itself(
    idle: Idle, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(module, "_AT_MOST", 60.0)
    began = time.monotonic()
    idle.give_way()
    assert time.monotonic() - began < 30


def test_where_the_kernel_does_not_tell_the_dispatcher_does(
    idle: Idle, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(module, "_AT_MOST", 60.0)
    monkeypatch.setattr(module, "_POLLS", {})
    other, passed = Idle(), threading.Event()
    threading.Thread(target=lambda: (other.give_way(), passed.set()), daemon=True).start()
    assert not passed.wait(0.3)
    loop = QEventLoop()
    QTimer.singleShot(200, loop.quit)
    loop.exec()
    assert passed.wait(10)
