"""What commands, search and reports need of the window they serve."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Protocol

if TYPE_CHECKING:
    from PySide6.QtGui import QAction
    from PySide6.QtWidgets import QWidget

    from gondrel.ui.manifest.view import ManifestView
    from gondrel.ui.session.session import Session
    from gondrel.ui.session.settings import SettingsStore
    from gondrel.ui.shell.command import Command

__all__ = ["Host", "ItemActions"]


class ItemActions(Protocol):
    """What can be done to the selected items."""

    def hide_selected(self) -> None:
        """Hide them."""

    def show_selected(self) -> None:
        """Show them again."""

    def faint_selected(self) -> None:
        """Make them seen through, or solid again."""

    def isolate_selected(self) -> None:
        """Hide everything else."""

    def show_everything(self) -> None:
        """Show all rows."""

    def copy_names(self) -> None:
        """Copy number, name and revision."""


class Host(Protocol):
    """A window: its session, what stands in it, and what it can be asked to do."""

    session: Session
    settings: SettingsStore
    stage: Any
    manifest: ManifestView
    commands: list[Command]
    actions_by_key: dict[str, QAction]

    @property
    def items(self) -> ItemActions:
        """What can be done to the selected items."""

    def over(self) -> QWidget:
        """The widget that dialogs stand over."""

    def show_page(self, key: str) -> None:
        """Open a page about recipients."""

    def show_table(self) -> None:
        """Open the table of facts."""

    def show_record(self) -> None:
        """Open the page of records."""

    def say(self, text: str) -> None:
        """Show a short notice."""

    def clear(self) -> None:
        """Select and mark nothing."""

    def open_search(self) -> None:
        """Open the search line."""

    def close(self) -> bool:
        """Close the window; False when it stays."""

    def new_window(self) -> None:
        """Open another window."""

    def choose_file(self) -> None:
        """Ask for files and receive them."""

    def choose_with_choices(self) -> None:
        """Ask for a file and show its choices first."""

    def choose_to_add(self) -> None:
        """Ask for a file to receive beside what is there."""

    def paste_drawing(self) -> None:
        """Look at the drawing whose text is in the clipboard."""

    def choose_folder(self) -> None:
        """Ask for a folder and receive its model files."""

    def add_empty_product(self) -> None:
        """Prepare an empty product."""

    def open_demo(self) -> None:
        """Receive the demo."""

    def save(self) -> None:
        """Save the crossing."""

    def save_as(self) -> None:
        """Save the crossing where the user says."""

    def save_html(self) -> None:
        """Save the report as HTML."""

    def save_pdf(self) -> None:
        """Save the report as PDF."""

    def save_proof(self) -> None:
        """Save the proof."""

    def show_settings(self) -> None:
        """Open the settings."""

    def show_shortcuts(self) -> None:
        """Open the page of keys."""

    def show_log(self) -> None:
        """Open the log."""

    def show_history(self) -> None:
        """Open the history of edits."""

    def toggle_parallel(self) -> None:
        """Change between parallel and perspective."""
