"""Modules that are loaded when something of them is first asked for.

For packages that load slowly and that most runs need nothing of, such as parts of SciPy.
"""

from __future__ import annotations

from importlib import import_module
from typing import Any

__all__ = ["late"]


class _Late:
    """Stands for a module until something of it is asked for."""

    def __init__(self, name: str) -> None:
        self._name = name

    def __getattr__(self, attribute: str) -> Any:
        value = getattr(import_module(self._name), attribute)
        setattr(self, attribute, value)  # so that it is looked up once
        return value


def late(name: str) -> Any:
    """A module by its name, loaded on first use; ModuleNotFoundError then, when there is none."""
    return _Late(name)
