"""Where text for people goes: in colour and to the width of a terminal, plain and unbroken elsewhere."""

from __future__ import annotations

import sys
from typing import TextIO

from rich.console import Console

__all__ = ["console"]

_UNBROKEN = 1000
"""Width at which nothing that is written to a file or a pipe is broken."""


class _Shown(Console):
    """A console that lets whoever called it know that nobody reads any more."""

    def on_broken_pipe(self) -> None:
        """Raise BrokenPipeError, which ends the program quietly."""
        raise BrokenPipeError


def console(*, stderr: bool = False, file: TextIO | None = None) -> Console:
    """A console on a standard stream, or on a file."""
    stream = file or (sys.stderr if stderr else sys.stdout)
    width = None if stream.isatty() else _UNBROKEN
    return _Shown(file=stream, width=width, highlight=False, markup=False, emoji=False)
