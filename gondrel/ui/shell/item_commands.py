"""What can be done to the selected items from anywhere: hide, isolate, see through, copy."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QApplication

from gondrel.ui.presenters.visibility import isolated
from gondrel.ui.shell.host import Host

__all__ = ["ItemCommands"]


class ItemCommands:
    """Acts on the selection of a window's session."""

    def __init__(self, window: Host) -> None:
        self.window = window

    def _of_selected(self, change: Callable[[set[Any], set[Any], set[Any]], None]) -> None:
        session = self.window.session
        if not session.selection:
            self.window.say("Nothing is selected")
            return
        hidden, faint = set(session.hidden), set(session.faint)
        change(hidden, faint, set(session.selection))
        session.set_hidden(hidden, faint)

    def hide_selected(self) -> None:
        """Hide the selected rows."""
        self._of_selected(lambda hidden, faint, rows: hidden.update(rows))

    def show_selected(self) -> None:
        """Show the selected rows again, as they are."""

        def change(hidden: set[Any], faint: set[Any], rows: set[Any]) -> None:
            hidden -= rows
            faint -= rows

        self._of_selected(change)

    def faint_selected(self) -> None:
        """Make the selected rows seen through, or solid again when all are."""

        def change(hidden: set[Any], faint: set[Any], rows: set[Any]) -> None:
            if rows <= faint:
                faint -= rows
            else:
                faint |= rows

        self._of_selected(change)

    def isolate_selected(self) -> None:
        """Hide everything but the selected rows, and fit."""
        session = self.window.session
        if session.model is None or not session.selection:
            self.window.say("Nothing is selected")
            return
        session.set_hidden(isolated(session.model, session.selection))
        if self.window.stage is not None:
            self.window.stage.fit()

    def show_everything(self) -> None:
        """Show all rows, none seen through."""
        self.window.session.set_hidden(set(), set())

    def copy_names(self) -> None:
        """Copy number, name and revision of the selected items."""
        model = self.window.session.model
        ids = self.window.session.selected_products()
        if model is None or not ids:
            self.window.say("Nothing is selected")
            return
        products = [model.product(i) for i in ids]
        QApplication.clipboard().setText("\n".join(f"{p.number}\t{p.name}\t{p.revision}" for p in products))
        self.window.say(f"Copied {len(products)} {'name' if len(products) == 1 else 'names'}")
