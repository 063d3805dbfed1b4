"""Long work of a thread beside the one that draws, done so that the other gets its turns."""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Iterator
from typing import Any

__all__ = ["Turns", "json_in_turns"]

_AT_ONCE = 200
_DEEP = 9
_TURN = 0.004
"""Seconds of work after which others have their turn."""


class Turns:
    """Called between the parts of a long work: gives way to others once a turn of it is over."""

    def __init__(self, give_way: Callable[[], None]) -> None:
        self._give_way = give_way
        self._began = time.perf_counter()

    def __call__(self) -> None:
        """Go on, or give way first."""
        if time.perf_counter() - self._began > _TURN:
            self._give_way()
            self._began = time.perf_counter()


def json_in_turns(value: Any, turn: Callable[[], None]) -> str:
    """The same text as json.dumps with its shortest separators, written in many calls instead of one, since
    the encoder keeps Python's lock for as long as a call takes.

    Args:
        turn: called between the pieces.
    """
    pieces = []
    for piece in _pieces(value, 0):
        pieces.append(piece)
        turn()
    return "".join(pieces)


def _pieces(value: Any, depth: int) -> Iterator[str]:
    if depth < _DEEP and isinstance(value, dict):
        yield "{"
        for place, (key, inner) in enumerate(value.items()):
            yield f"{',' if place else ''}{json.dumps(str(key))}:"
            yield from _pieces(inner, depth + 1)
        yield "}"
    elif depth < _DEEP and isinstance(value, list | tuple) and value and isinstance(value[0], dict | list):
        yield "["
        step = _AT_ONCE if depth + 1 == _DEEP or len(value) > _AT_ONCE * _DEEP else 1
        for first in range(0, len(value), step):
            yield "," if first else ""
            some = value[first : first + step]
            yield from _pieces(some[0], depth + 1) if step == 1 else (_plain(some)[1:-1],)
        yield "]"
    else:
        yield _plain(value)


def _plain(value: Any) -> str:
    return json.dumps(value, separators=(",", ":"))
