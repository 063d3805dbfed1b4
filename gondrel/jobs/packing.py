"""Messages to and from a worker process packed in turns with the thread that draws."""

from __future__ import annotations

import pickle
from collections.abc import Callable
from io import BytesIO
from multiprocessing.reduction import ForkingPickler
from typing import Any

from gondrel.core.work.in_turns import Turns

__all__ = ["pack", "unpack"]


class _InTurns(BytesIO):
    """Memory that pickle writes to and reads from by its frames of 64 kB.

    In one piece, packing keeps Python's lock for as long as it takes; here it has to ask for each frame.
    Source: PEP 3154, framing.
    """

    def __init__(self, turn: Callable[[], None], data: bytes = b"") -> None:
        super().__init__(data)
        self._turn = turn

    def write(self, data: Any) -> int:
        self._turn()
        return super().write(data)

    def read(self, size: int | None = -1) -> bytes:
        self._turn()
        return super().read(size)


def pack(message: Any, give_way: Callable[[], None]) -> bytes:
    """A message as bytes.

    Args:
        give_way: called before, and every few milliseconds from then on.
    """
    give_way()
    memory = _InTurns(Turns(give_way))
    ForkingPickler(memory, pickle.HIGHEST_PROTOCOL).dump(message)
    return memory.getvalue()


def unpack(data: bytes, give_way: Callable[[], None]) -> Any:
    """The message that a worker of ours packed.

    Args:
        give_way: called before, and every few milliseconds from then on.
    """
    give_way()
    return pickle.Unpickler(_InTurns(Turns(give_way), data)).load()
