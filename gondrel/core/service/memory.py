"""What reading a file will take of the machine's memory, told before it is read."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from gondrel.core.errors import GondrelError
from gondrel.core.formats.registry import by_content
from gondrel.core.model.provenance import Note
from gondrel.core.work.machine import free_megabytes, gigabytes

__all__ = ["memory_doubts", "memory_note", "needed_megabytes"]

_BASE = 300
"""MB that a worker has before it reads anything."""

_PER_RECORD = 1.5e-3
"""MB that a STEP record takes, ours and the second reader together. Measured: 1.2 to 1.4e-3 with an
assembly of 800,000 records and a part of 4,852 faces."""

_PER_MEGABYTE = {"xt": 26.0, "iges": 60.0}
"""MB that a MB of a file takes. Measured: 25 with XT text of 4 MB, 53 and 61 with IGES of 1 MB."""

_PROBES, _PROBE = 8, 65_536
_LEAST = 1_000_000
"""Bytes below which no file is looked at."""


def needed_megabytes(path: str) -> int | None:
    """Memory that reading all of a file will take, MB, by its records; None where nobody measured its
    format, or it is small. Raises InputError when it can't be read."""
    size = Path(path).stat().st_size
    if size < _LEAST:
        return None
    known = by_content(path).key
    if known == "step":
        return round(_BASE + _PER_RECORD * _records(path, size))
    if known in _PER_MEGABYTE:
        return round(_BASE + _PER_MEGABYTE[known] * size / 1e6)
    return None


def _records(path: str, size: int) -> float:
    """How many records a STEP file has, by how densely they lie at a few places of it."""
    seen = found = 0
    with Path(path).open("rb") as stream:
        for number in range(_PROBES):
            stream.seek(number * max(size - _PROBE, 0) // (_PROBES - 1))
            piece = stream.read(_PROBE)
            seen, found = seen + len(piece), found + piece.count(b";")
    return size * found / max(seen, 1)


def memory_note(path: str) -> Note | None:
    """What to tell of a file that will need more memory than is free, None where it will not."""
    try:
        needed = needed_megabytes(path)
    except (GondrelError, OSError):
        return None  # whoever reads it says why it can't be read
    free = free_megabytes()
    if needed is None or free is None or needed <= free:
        return None
    text = (
        f"reading all of it will take about {gigabytes(needed)} of memory, and {gigabytes(free)} are free: "
        "it would be ended before the end"
    )
    if by_content(path).reads_structure is not None:
        text += "; its structure alone takes far less, and shapes come when they are asked for"
    return Note("memory-short", text)


def memory_doubts(paths: Iterable[str]) -> list[str]:
    """What to tell of the files that will need more memory than is free, each with its name."""
    notes = ((Path(path).name, memory_note(path)) for path in paths if Path(path).is_file())
    return [f"{name}: {note.text}" for name, note in notes if note is not None]
