"""Ranking of what a search line finds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

__all__ = ["SearchText", "find"]


@dataclass(frozen=True, slots=True)
class SearchText:
    """A thing with a title, a hint beside it, and more words it answers to."""

    title: str
    hint: str
    words: str = ""


def find(things: Sequence[SearchText], text: str, most: int) -> list[int]:
    """Indices of what fits best; all words must occur. Beginnings of words come first.

    Example:
        >>> find([SearchText("Save", "Ctrl+S"), SearchText("Unsaved work", "")], "sav", 5)
        [0, 1]
    """
    words = text.lower().split()
    if not words:
        return list(range(min(len(things), most)))
    scored = []
    for index, thing in enumerate(things):
        title = thing.title.lower()
        every = f"{title} {thing.words.lower()}"
        if not all(word in every for word in words):
            continue
        starts = every.replace("-", " ").split()
        score = sum(
            0 if title.startswith(word) else 1 if any(p.startswith(word) for p in starts) else 2
            for word in words
        )
        scored.append((score, len(title), index))
    return [index for _, _, index in sorted(scored)[:most]]
