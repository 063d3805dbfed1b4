"""What a command of a window is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

__all__ = ["Command"]


@dataclass(frozen=True, slots=True)
class Command:
    """One command.

    Args:
        keys: shortcuts, the first is the one shown.
        words: further words it is found by.
    """

    key: str
    title: str
    group: str
    keys: tuple[str, ...]
    run: Callable[[], object]
    words: str = ""
