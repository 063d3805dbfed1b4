"""Starting the application."""

from __future__ import annotations

import os
import sys
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from gondrel.ui.theme import LIGHT, apply_theme, load_fonts
from gondrel.ui.window import MainWindow

__all__ = ["make_application", "open_window", "run"]


def make_application(arguments: Sequence[str] = ()) -> QApplication:
    """The Qt application with fonts and theme; the running one if there is one."""
    os.environ.setdefault("QT_QPA_PLATFORM", "xcb")
    running = QApplication.instance()
    if isinstance(running, QApplication):
        return running
    application = QApplication(["gondrel", *arguments])
    application.setApplicationName("Gondrel")
    application.setDesktopFileName("gondrel")
    load_fonts()
    apply_theme(application, LIGHT)
    return application


def open_window(files: Sequence[str] = (), demo: bool = False) -> MainWindow:
    """A window, shown at once; workers and picture are loaded behind it."""
    window = MainWindow()
    window.show()

    def behind() -> None:
        window.session.start()
        window.add_stage()
        if demo:
            window.open_demo()
        for path in files[:1]:
            window.session.open_file(str(Path(path).resolve()))

    QTimer.singleShot(0, behind)
    return window


def run(arguments: Sequence[str]) -> int:
    """Run the application until it is closed; returns the exit status."""
    if not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):
        print("gondrel: there is no display; use inspect, send or prove", file=sys.stderr)
        return 2
    unknown = [a for a in arguments if a.startswith("-") and a != "--demo"]
    if unknown:
        print(f"gondrel: unknown option {unknown[0]}", file=sys.stderr)
        return 2
    files = [a for a in arguments if not a.startswith("-")]
    missing = [f for f in files if not Path(f).is_file()]
    if missing:
        hint = "subcommands are inspect, send and prove"
        print(f"gondrel: {missing[0]}: there is no such file ({hint})", file=sys.stderr)
        return 2
    application = make_application()
    window = open_window(files, "--demo" in arguments)
    result = application.exec()
    del window
    return int(result)
