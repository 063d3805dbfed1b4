"""A command that fails within."""

from __future__ import annotations

from typing import Any


def inspect_command(*args: Any, progress: Any = None) -> None:
    raise RuntimeError("on purpose")
