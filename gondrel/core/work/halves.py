"""Work on a range, one half of it in a copy of this process."""

from __future__ import annotations

import os
from collections.abc import Callable
from multiprocessing import Pipe
from typing import TypeVar

from gondrel.core.work.aside import begin_aside

__all__ = ["in_halves"]

T = TypeVar("T")


def in_halves(count: int, act: Callable[[int, int], T], *, worth: int) -> list[T]:
    """`act(first, behind)` over a range, or over its two halves, the latter in a copy of this process.

    Args:
        act: reads what this process has and changes nothing of it; what it returns must be picklable.
        worth: how large a range is worth the copy.
    """
    if count < worth or (os.cpu_count() or 1) < 2:
        return [act(0, count)]
    middle = count // 2
    ours, theirs = Pipe(duplex=False)

    def tell() -> tuple[bytes, ...]:
        theirs.send(act(middle, count))
        return ()

    aside = begin_aside(tell)
    theirs.close()  # so that the end of the copy is the end of the pipe
    try:
        here = act(0, middle)
        try:
            there = ours.recv()
        except (EOFError, OSError):
            there = act(middle, count)
    finally:
        ours.close()
        aside.end()
    return [here, there]
