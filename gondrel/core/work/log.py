"""The log: one file in the state directory, turned over when it is large, for what went wrong within.

What a user is told is told where it happens; this is for what stands behind it, tracebacks above all.
"""

from __future__ import annotations

import logging
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path

from gondrel.core.work.files import state_folder

__all__ = ["log_file", "start_log"]

_MOST_BYTES, _KEPT = 1_000_000, 3
_FORM = "%(asctime)s %(process)d %(levelname)s %(name)s: %(message)s"


def log_file() -> Path:
    """Where the log is. Raises OSError when its folder can't be made."""
    folder = state_folder() / "log"
    folder.mkdir(exist_ok=True)
    return folder / "gondrel.log"


def start_log(*, verbose: bool = False, is_worker: bool = False) -> None:
    """Have what is logged written to the file, and to standard error too where that is asked for.

    Args:
        is_worker: whether this is one of several processes that write to the file; only the first turns
            it over.
    """
    logger = logging.getLogger("gondrel")
    if logger.handlers:
        return
    logger.setLevel(logging.DEBUG if verbose else logging.INFO)
    logger.propagate = False
    handlers: list[logging.Handler] = []
    try:
        path = log_file()
        most = 0 if is_worker else _MOST_BYTES
        handlers.append(
            RotatingFileHandler(path, maxBytes=most, backupCount=_KEPT, encoding="utf-8", delay=True)
        )
    except OSError:  # a full or read-only disk keeps nobody from working
        handlers.append(logging.NullHandler())
    if verbose:
        handlers.append(logging.StreamHandler(sys.stderr))
    for handler in handlers:
        handler.setFormatter(logging.Formatter(_FORM))
        logger.addHandler(handler)
