"""What the machine has for a piece of work."""

from __future__ import annotations

import ctypes
from contextlib import suppress
from pathlib import Path

__all__ = ["free_megabytes", "gigabytes", "give_memory_back"]

_MEMORY = Path("/proc/meminfo")
_GROUP = Path("/sys/fs/cgroup")


def free_megabytes() -> int | None:
    """Memory that can be had without taking it from others, MB; None where the system does not say.

    Source: proc(5), MemAvailable of /proc/meminfo; the kernel's guide to control groups, version 2, of
    memory.max and memory.current.
    """
    found = [value for value in (_available(), _left_of_group()) if value is not None]
    return min(found) if found else None


def _available() -> int | None:
    try:
        for line in _MEMORY.read_text(encoding="ascii").splitlines():
            if line.startswith("MemAvailable:"):
                return round(int(line.split()[1]) * 1024 / 1e6)
    except (OSError, ValueError, IndexError):
        return None
    return None


def _left_of_group() -> int | None:
    try:
        most = (_GROUP / "memory.max").read_text(encoding="ascii").strip()
        used = (_GROUP / "memory.current").read_text(encoding="ascii").strip()
        return None if most == "max" else max(round((int(most) - int(used)) / 1e6), 0)
    except (OSError, ValueError):
        return None


def give_memory_back() -> None:
    """Give memory that was freed back to the system, where the C library can.

    Source: malloc_trim(3) of the GNU C library. The kernel frees its records in small pieces, which would
    stay with the process beside all that comes after.
    """
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


def gigabytes(megabytes: float) -> str:
    """A size for people, in GB with as many digits as mean something."""
    return f"{megabytes / 1000:.1f} GB" if megabytes < 10_000 else f"{megabytes / 1000:.0f} GB"
