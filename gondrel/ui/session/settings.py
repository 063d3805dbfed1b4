"""What the user has chosen to keep: names, shown units, theme, recent files, columns."""

from __future__ import annotations

from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from gondrel.core.errors import GondrelError
from gondrel.core.service.kept import keep, kept_fields
from gondrel.core.work.files import config_folder

__all__ = ["COLUMN_KEYS", "MOST_MEMORY", "UPS", "Settings", "SettingsStore"]

COLUMN_KEYS = ("number", "revision", "quantity", "bodies", "material", "mass", "colour", "layer", "state")
UPS = ("z", "y", "x")
_RECENT = 12
MOST_MEMORY = 1024
"""GB that the setting can say."""


@dataclass(frozen=True, slots=True)
class Settings:
    """Everything that is kept between starts.

    Args:
        shown_unit: "mm" or "inch", for figures on screen; files keep their own.
        decimals: decimal places of lengths in mm; inches show one and a half as many.
        search: folders that were looked in for missing files, the last first.
        receiver: name of the receiving side's system, to tell when both sides have the same.
        sending: settings of the last send, with its kind, by their keys.
        columns: which columns of the manifest are shown beside the item.
        up: which axis of models is up: z, y or x; widths: of manifest, stage and sheet, pixels.
        checks_idle: whether what was received is checked by itself when nothing else is going on.
        memory: GB that each of the two working processes may take, 0 for what a job says itself.
    """

    author: str = ""
    organisation: str = ""
    shown_unit: str = "mm"
    decimals: int = 3
    theme: str = "light"
    large_type: bool = False
    parallel: bool = False
    recent: tuple[str, ...] = ()
    search: tuple[str, ...] = ()
    receiver: str = ""
    sending: tuple[tuple[str, str], ...] = ()
    columns: tuple[str, ...] = ("revision", "quantity", "state")
    up: str = "z"
    widths: tuple[int, ...] = ()
    checks_idle: bool = True
    memory: int = 0

    def with_recent(self, path: str) -> Settings:
        """With a file at the head of the recent ones."""
        kept = tuple(p for p in self.recent if p != path)
        return replace(self, recent=(path, *kept)[:_RECENT])


_SEARCHED = 5


def _file() -> Path:
    return config_folder() / "settings.json"


def _keep(file: Path, settings: Settings) -> None:
    with suppress(OSError, GondrelError):
        keep(file, settings)


class SettingsStore(QObject):
    """The settings of the running application; a change holds and is told at once, and is kept aside."""

    changed = Signal()

    _pool = ThreadPoolExecutor(1, thread_name_prefix="gondrel-settings")
    """Writes one after another: waiting for the disk would be felt in the window. Ends with the process,
    once all is written."""
    _last: Future[None] | None = None

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.now = self._read()

    def change(self, **values: Any) -> None:
        """Change some settings. An unwritable folder is no reason to stop: they hold until the end."""
        changed = replace(self.now, **values)
        if changed == self.now:
            return
        self.now = changed
        SettingsStore._last = self._pool.submit(_keep, _file(), changed)
        self.changed.emit()

    @classmethod
    def _read(cls) -> Settings:
        """What was kept; a broken or unknown entry falls back to its default."""
        if cls._last is not None:
            cls._last.result()
        made = kept_fields(_file(), Settings())
        known = tuple(c for c in made.columns if c in COLUMN_KEYS)
        widths = made.widths if len(made.widths) == 3 and min(made.widths) > 0 else ()
        up = made.up if made.up in UPS else "z"
        decimals = min(max(made.decimals, 0), 6)
        memory = min(max(made.memory, 0), MOST_MEMORY)
        return replace(made, memory=memory, columns=known, decimals=decimals, widths=widths, up=up)
