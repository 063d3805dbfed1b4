"""Work on a range, one half of it in a copy of this process."""

from __future__ import annotations

import os
import pickle
from collections.abc import Callable
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
    aside = begin_aside(lambda: iter([pickle.dumps(act(middle, count))]))
    try:
        here = act(0, middle)
        told = aside.part(lambda: None)
    finally:
        aside.end()
    return [here, pickle.loads(told) if told else act(middle, count)]
