"""Work done aside."""

from __future__ import annotations

import os
import time

import pytest

from gondrel.core.work import begin_aside

MORE_THAN_A_PIPE = 3_000_000


def silent() -> None:
    return None


def test_parts_come_in_their_order_and_whole() -> None:
    parts = [b"", b"one", bytes(range(256)) * (MORE_THAN_A_PIPE // 256)]
    aside = begin_aside(lambda: iter(parts))
    assert [aside.part(silent) for _ in parts] == parts
    assert aside.part(silent) is None
    assert aside.part(silent) is None


def test_the_work_does_not_wait_for_its_parts_to_be_read() -> None:
    def work():
        yield b"x" * MORE_THAN_A_PIPE
        yield repr(time.monotonic()).encode()

    aside = begin_aside(work)
    time.sleep(0.6)
    read = time.monotonic()
    assert len(aside.part(silent) or b"") == MORE_THAN_A_PIPE
    assert float(aside.part(silent) or b"inf") < read
    aside.end()


def test_work_that_fails_tells_no_more(capfd) -> None:
    def work():
        yield b"before"
        raise ValueError("no more of it")

    aside = begin_aside(work)
    assert aside.part(silent) == b"before"
    assert aside.part(silent) is None
    assert "no more of it" in capfd.readouterr().err


def test_giving_up_ends_the_work() -> None:
    def work():
        yield str(os.getpid()).encode()
        time.sleep(60)
        yield b"late"

    aside = begin_aside(work)
    pid = int(aside.part(silent) or b"0")

    def give_up() -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        aside.part(give_up)
    with pytest.raises(ProcessLookupError):
        os.kill(pid, 0)
