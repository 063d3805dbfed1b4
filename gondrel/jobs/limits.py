"""How long and how large a job may get, from the size of the files it is about."""

from __future__ import annotations

import os
from collections.abc import Iterable

from gondrel.core.work.machine import free_megabytes

__all__ = ["limits_for", "most_megabytes", "resident_megabytes"]

_SECONDS, _SECONDS_PER_MB = 300.0, 30.0
_MEGABYTES, _MEGABYTES_PER_MB = 2_500, 80
"""Ten times and more of what the heaviest files need that were tried (bench/opening.py, bench/xt.py)."""


_ALL_BUT = 200
"""MB that are left to whatever else runs."""


def most_megabytes() -> int:
    """Memory that a job may take on this machine as it is now, MB; 0 where the system does not say."""
    free = free_megabytes()
    return 0 if free is None else max(free - _ALL_BUT, _ALL_BUT)


def limits_for(paths: Iterable[str]) -> tuple[float, int]:
    """Seconds and megabytes that a job about some files gets; generous, so that only what never ends or
    swells without bound meets them, but no more memory than the machine has."""
    size = 0.0
    for path in paths:
        try:
            size += os.stat(path).st_size / 1e6
        except (OSError, ValueError):
            continue
    megabytes, most = _MEGABYTES + round(_MEGABYTES_PER_MB * size), most_megabytes()
    return _SECONDS + _SECONDS_PER_MB * size, min(megabytes, most) if most else megabytes


def resident_megabytes(pid: int | None) -> float:
    """Memory that a process holds now, MB; 0 where there is none.

    Source: proc(5), the second figure of /proc/PID/statm, in pages.
    """
    try:
        with open(f"/proc/{pid}/statm", encoding="ascii") as stream:
            return int(stream.read().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6
    except (OSError, IndexError, ValueError):
        return 0.0
