"""Work cut into turns of the event loop."""

import time
from functools import partial
from itertools import pairwise

import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QObject
from PySide6.QtTest import QTest

from gondrel.ui.session.deferred import Deferred, HandingOn
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


def test_an_act_and_what_comes_from_threads_never_share_a_turn() -> None:
    """What each of them changed is seen to before the other begins, as painting is; none waits for ever."""
    order: list[str] = []

    class Changed(QObject):
        def event(self, event: QEvent) -> bool:
            order.append("seen to")
            time.sleep(0.02)  # meanwhile all timers are due
            return True

    turns, changed = Deferred(), Changed()

    def work(name: str) -> None:
        order.append(name)
        QCoreApplication.postEvent(changed, QEvent(QEvent.Type.User))
        time.sleep(0.02)

    handing_on = HandingOn(lambda n: work(f"message {n}"), turns)
    acts = [partial(work, f"act {n}") for n in range(12)]
    for n in range(12):
        handing_on.add(n)
        turns.ask(acts[n])
    wait_until(lambda: sum("seen" not in step for step in order) == 24, 20)
    wait_until(lambda: order[-1] == "seen to", 5)
    kinds = [step.split()[0] for step in order]
    assert ("act", "message") not in pairwise(kinds) and ("message", "act") not in pairwise(kinds)
    assert order.index("act 0") < order.index("message 11")
    assert [s for s in order if "act" in s] == [f"act {n}" for n in range(12)]
    assert [s for s in order if "message" in s] == [f"message {n}" for n in range(12)]
