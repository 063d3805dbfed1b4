"""The file card: what a file says of itself, told before the kernel is loaded."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from gondrel.core.formats.base import Format
from gondrel.core.formats.registry import by_content
from gondrel.core.model.doubts import card_doubts
from gondrel.core.model.provenance import FileFacts
from gondrel.core.service.memory import memory_note
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import checked_file
from gondrel.core.work.packed import unpacked

__all__ = ["as_packed", "file_card", "with_doubts"]


def file_card(path: str, *, progress: Progress = SILENT) -> FileFacts:
    """What a file says of itself, without loading it, and what gives reason to doubt it or to
    read it otherwise here.

    Raises:
        InputError: when it can't be read, is of no known format or is cut off.
    """
    with unpacked(checked_file(path)) as plain:
        known = by_content(plain)
        card = with_doubts(as_packed(known.reads_card(plain), path), known)
        short = memory_note(plain)
    return card if short is None else replace(card, notes=(*card.notes, short))


def as_packed(card: FileFacts, path: str) -> FileFacts:
    """The card of what a packed file holds as that of the file."""
    return card if card.path == path else replace(card, path=path, bytes=Path(path).stat().st_size)


def with_doubts(card: FileFacts, known: Format) -> FileFacts:
    """The card with what gives reason to doubt it, and what its format never brings."""
    return replace(card, notes=(*card.notes, *card_doubts(card)), never=known.never)
