"""A range done in two processes gives what one gives."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from gondrel.core.work.halves import in_halves


def _children() -> set[str]:
    """Processes that this one began and that are not reaped. Source: proc(5)."""
    return {pid for each in Path("/proc/self/task").glob("*/children") for pid in each.read_text().split()}


def squares(first: int, behind: int) -> list[int]:
    return [n * n for n in range(first, behind)]


@pytest.mark.parametrize("count", [0, 1, 9, 10, 101])
def test_both_halves_are_there_in_their_order(count: int) -> None:
    made = [each for half in in_halves(count, squares, worth=10) for each in half]
    assert made == squares(0, count)


def test_the_second_half_is_done_in_a_copy(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(os, "cpu_count", lambda: 2)
    here, there = in_halves(10, lambda first, _: (os.getpid(), first), worth=10)
    assert here == (os.getpid(), 0) and there[0] != os.getpid() and there[1] == 5
    assert in_halves(9, lambda first, _: (os.getpid(), first), worth=10) == [(os.getpid(), 0)]
    monkeypatch.setattr(os, "cpu_count", lambda: 1)
    assert len(in_halves(10, squares, worth=10)) == 1


def test_what_the_copy_does_not_tell_is_done_here() -> None:
    own = os.getpid()

    def fails_elsewhere(first: int, behind: int) -> list[int]:
        if os.getpid() != own:
            os._exit(3)
        return squares(first, behind)

    first, second = in_halves(10, fails_elsewhere, worth=2)
    assert first + second == squares(0, 10)


def test_an_error_here_is_raised_and_leaves_no_process() -> None:
    def fails(first: int, _: int) -> int:
        return 1 // first

    before = _children()
    with pytest.raises(ZeroDivisionError):
        in_halves(10, fails, worth=2)
    assert _children() <= before  # other tests of this process may have theirs
