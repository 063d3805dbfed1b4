"""Work cut into turns of the event loop."""

import pytest
from PySide6.QtTest import QTest

from gondrel.ui.session.deferred import Deferred
from gondrel.ui.shell.application import make_application
from tests.conftest import wait_until

pytestmark = pytest.mark.window


@pytest.fixture(autouse=True)
def running() -> None:
    make_application()


def test_each_act_runs_once_and_in_its_own_turn() -> None:
    turns, ran = Deferred(), []

    def first() -> None:
        ran.append("first")

    def second() -> None:
        ran.append("second")

    for act in (first, second, first):
        turns.ask(act)
    assert ran == []
    turns._run()
    assert ran == ["first"]
    wait_until(lambda: ran == ["first", "second"], 10)
    QTest.qWait(60)
    assert ran == ["first", "second"]


def test_an_act_may_ask_for_another() -> None:
    turns, ran = Deferred(), []
    turns.ask(lambda: turns.ask(lambda: ran.append("later")))
    wait_until(lambda: ran == ["later"], 10)
