"""A second process that takes work off the first, where there is a processor for it."""

from __future__ import annotations

import multiprocessing
import os
import pickle
from collections import deque
from collections.abc import Callable, Sequence
from multiprocessing.connection import Connection, wait
from typing import Any

from gondrel.core.work.parent import end_with_parent

__all__ = ["share_work"]

Act = Callable[..., None]


def share_work(
    act: Act, items: Sequence[Any], shared: tuple[Any, ...], *, before_each: Callable[[int, Any], None]
) -> None:
    """Run `act(item, *shared)` for all items: from the front here, from the back in a second process.

    Results go where `act` puts them; it must be importable and do no harm when run twice. Where there is
    one processor only, or the second process fails or dies, everything is done here.

    Args:
        before_each: called here with how many are done and the next item; may raise to end the work, which
            ends the second process too.
    """
    if len(items) < 2 or (os.cpu_count() or 1) < 2:
        for done, item in enumerate(items):
            before_each(done, item)
            act(item, *shared)
        return
    context = multiprocessing.get_context("spawn")
    ours, theirs = context.Pipe()
    helper = context.Process(target=_help, args=(theirs, act, shared, os.getpid()), daemon=True)
    helper.start()
    theirs.close()
    try:
        _divide(act, items, shared, ours, before_each)
    finally:
        ours.close()
        helper.terminate()
        helper.join()


def _divide(
    act: Act, items: Sequence[Any], shared: tuple[Any, ...], line: Connection, before_each: Any
) -> None:
    first, last = 0, len(items)  # items[first:last] is not given out yet
    lent: deque[int] = deque()
    is_there = True

    def hear() -> None:
        """Take what the helper says: that it began, or has done the oldest of what it was lent."""
        nonlocal is_there, last
        try:
            while is_there and line.poll():
                if line.recv() and lent:
                    lent.popleft()
                while first < last and len(lent) < _AHEAD:
                    last -= 1
                    lent.append(last)
                    line.send(items[last])
        except (EOFError, OSError):
            is_there = False

    while first < last or lent:
        hear()
        if first < last:
            before_each(first + len(items) - last, items[first])
            act(items[first], *shared)
            first += 1
        elif lent and is_there:
            before_each(len(items) - 1, items[lent[0]])
            wait([line], timeout=0.1)
        elif lent:
            act(items[lent.popleft()], *shared)


_AHEAD = 2
"""How many items the helper has at a time, so that it need not wait for the next."""


def _help(line: Connection, act: Act, shared: tuple[Any, ...], parent: int) -> None:
    """Say that one is ready, then do items and say so; until the line or the first process is gone."""
    if not end_with_parent(parent):
        return
    try:
        line.send(False)
        while True:
            act(line.recv(), *shared)
            line.send(True)
    except (EOFError, OSError, pickle.UnpicklingError):
        return
