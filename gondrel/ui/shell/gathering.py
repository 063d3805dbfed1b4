"""Gathering the files of the open crossing from the window."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog

from gondrel.core.reports.figures import count_of
from gondrel.ui.shell.host import Host

__all__ = ["ask_and_gather", "gather"]

_GATHER = "gondrel.core.service.gather:gather_crossing"


def ask_and_gather(window: Host) -> None:
    """Ask for an archive and gather what was received, referred to and sent into it."""
    session = window.session
    if session.model is None:
        window.say("There is nothing to gather yet")
        return
    proposal = f"{Path(session.crossing.name).stem}-files.zip"
    path, _ = QFileDialog.getSaveFileName(window.over(), "Gather files", proposal, "ZIP archives (*.zip)")
    if path:
        gather(window, str(Path(path).with_suffix(".zip")))


def gather(window: Host, out: str) -> None:
    """Gather the files of the open crossing into an archive, and say what could not be found."""

    def done(found: dict[str, Any]) -> None:
        there = len({each["file"] for each in found["files"] if each["file"]})
        missing = found["missing"]
        lost = f"; not found: {', '.join(missing[:3])}" if missing else ""
        window.say(f"Gathered {count_of(there, 'file')} into {Path(out).name}{lost}")

    window.session.run_job(_GATHER, (window.session.crossing, out), "gathering files", done)
