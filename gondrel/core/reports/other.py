"""What another reader sees of a file, in sentences."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from gondrel.core.carriage.other import AGREED, BY_NODES, OTHERWISE, UNREAD, OtherLine

__all__ = ["is_otherwise", "other_sentences"]

_MOST = 12


def is_otherwise(line: OtherLine) -> bool:
    """Whether another reader reads something otherwise."""
    return line.verdict == OTHERWISE


def other_sentences(lines: Iterable[OtherLine | Mapping[str, Any]]) -> list[str]:
    """One sentence of agreement or of why there is no other reader, and one for each difference."""
    rows = [line if isinstance(line, OtherLine) else OtherLine(**line) for line in lines]
    unread = [f"Not read by another reader: {row.after}" for row in rows if row.verdict == UNREAD]
    unread += [f"By the file's own nodes alone, without the kernel: {row.after}" for row in rows
             if row.verdict == BY_NODES]  # fmt: skip
    otherwise = [row for row in rows if row.verdict == OTHERWISE]
    alike = [row.thing for row in rows if row.verdict == AGREED]
    if alike:
        unread.append(f"Another reader sees the same: {', '.join(alike)}")
    for row in otherwise[:_MOST]:
        item = f" of {row.item}" if row.item else ""
        unread.append(
            f"Read otherwise by another reader: {row.thing}{item}: {row.before} here, {row.after} there"
        )
    if len(otherwise) > _MOST:
        unread.append(f"and {len(otherwise) - _MOST} more that another reader reads otherwise")
    return unread
