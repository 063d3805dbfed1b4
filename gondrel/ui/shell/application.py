"""Starting the application."""

from __future__ import annotations

import gc
import os
import sys
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from gondrel.core.work.files import sweep
from gondrel.core.work.log import start_log
from gondrel.ui.session.collecting import Collecting
from gondrel.ui.session.settings import SettingsStore
from gondrel.ui.shell.ending import SignalEnd
from gondrel.ui.shell.window import MainWindow
from gondrel.ui.widgets.keys import OwnKeys
from gondrel.ui.widgets.theme import DARK, LIGHT, apply_theme, icon_path, load_fonts

__all__ = ["end_on_signals", "make_application", "open_window", "run"]

_FIRST_PAINT_MS = 40
"""The window is painted before workers and picture are begun."""

_SWITCH = 0.0005
"""Seconds after which a thread hands over Python's lock: the one that draws asks for it with each call of
Qt, and with the 5 ms that are usual it waited tenths of a second for two busy threads.
Source: sys.setswitchinterval of Python's library reference."""

_windows: list[MainWindow] = []


def make_application(arguments: Sequence[str] = ()) -> QApplication:
    """The Qt application with fonts; the running one if there is one."""
    os.environ.setdefault("QT_QPA_PLATFORM", "xcb")
    running = QApplication.instance()
    if isinstance(running, QApplication):
        return running
    application = QApplication(["gondrel", *arguments])
    application.setApplicationName("Gondrel")
    application.setDesktopFileName("gondrel")
    application.setWindowIcon(QIcon(icon_path()))
    load_fonts()
    sys.setswitchinterval(_SWITCH)
    OwnKeys(application)
    Collecting(lambda: any(window.session.tasks.running for window in _windows), application)
    return application


def open_window(
    files: Sequence[str] = (), demo: bool = False, settings: SettingsStore | None = None
) -> MainWindow:
    """A window, shown at once; workers and picture are loaded behind it."""
    application = make_application()
    if settings is None:
        settings = SettingsStore(application)

        def theme() -> None:
            now = settings.now
            apply_theme(application, DARK if now.theme == "dark" else LIGHT, large=now.large_type)

        theme()
        looks = [(settings.now.theme, settings.now.large_type)]

        def changed() -> None:
            if looks[0] != (settings.now.theme, settings.now.large_type):
                looks[0] = (settings.now.theme, settings.now.large_type)
                theme()

        settings.changed.connect(changed)
    window = MainWindow(settings, lambda: open_window(settings=settings))
    _windows.append(window)
    gc.freeze()  # what is loaded stays

    def forget() -> None:
        if window in _windows:
            _windows.remove(window)
        QTimer.singleShot(0, application, gc.collect)  # much of a window holds itself

    window.closed.connect(forget)
    window.show()
    window.activateWindow()

    def behind() -> None:
        window.session.start()
        if demo:
            window.open_demo()
        for path in files[:1]:  # before the picture is there, so that it begins with what is being read
            window.session.open_file(str(Path(path).resolve()))
        window.add_stage()
        for path in files[1:]:
            open_window([path], settings=settings)

    QTimer.singleShot(_FIRST_PAINT_MS, behind)
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
    start_log()
    application = make_application()
    sweep()
    end_on_signals(application)
    open_window(files, "--demo" in arguments)
    return int(application.exec())


def end_on_signals(application: QApplication) -> SignalEnd:
    """Have SIGTERM, SIGINT and SIGHUP close the windows; what is unsaved is offered at the next start."""

    def end(status: int) -> None:
        for window in list(_windows):
            window.close()
        application.exit(status)

    return SignalEnd(application, end)
