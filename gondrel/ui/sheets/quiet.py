"""Sheets of stations that have nothing to do in this version."""

from __future__ import annotations

from typing import Any

from gondrel.ui.sheets.base import SheetView, quiet
from gondrel.ui.turns import Turns

__all__ = ["QuietSheet"]


class QuietSheet(SheetView):
    """A station whose work comes later; says so."""

    def __init__(self, title: str, text: str, turns: Turns, parent: Any = None) -> None:
        super().__init__(title, turns, parent)
        self.add(quiet(text))
        self.finish()
