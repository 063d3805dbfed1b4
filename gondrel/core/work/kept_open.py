"""What was opened last, kept open while it is asked for again."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

__all__ = ["KeptOpen"]

T = TypeVar("T")


class KeptOpen(Generic[T]):
    """Holds one thing by its key; another key closes it first.

    Args:
        close: lets go of a thing.
    """

    def __init__(self, close: Callable[[T], None]) -> None:
        self._close = close
        self._held: tuple[str, T] | None = None

    def of(self, key: str, make: Callable[[], T]) -> T:
        """The thing of a key, made where it is not the one that is held; what make raises is raised."""
        if self._held is not None and self._held[0] == key:
            return self._held[1]
        if self._held is not None:
            last, self._held = self._held[1], None
            self._close(last)
        made = make()
        self._held = key, made
        return made
