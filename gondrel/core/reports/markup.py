"""Pieces of markup that reports are made of."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from typing import TypeVar

__all__ = ["MOST", "STYLE", "folded", "table", "verdict"]

T = TypeVar("T")

_SIGNS = {"carried": "\u2713", "altered": "\u25d0", "lost": "\u25c6", "added": "+", "unproved": "?"}
_COLOURS = {"carried": "#2F6F4F", "altered": "#9A640F", "lost": "#A63D40", "added": "#1D5C7A"}
MOST = 60
"""How many rows of a long list are shown."""

STYLE = """
body { font-family: Inter, Helvetica, Arial, sans-serif; font-size: 10pt; color: #1F2A33; margin: 32px; }
h1 { font-size: 19pt; margin-bottom: 2px; } h2 { font-size: 13pt; margin-top: 22px; }
table { border-collapse: collapse; width: 100%; } td, th { text-align: left; padding: 3px 8px 3px 0;
vertical-align: top; border-bottom: 1px solid #DEDACE; } th { color: #5B666E; font-weight: 600; }
td.figure { text-align: right; } .quiet { color: #5B666E; } img { max-width: 100%; }
@media print { body { margin: 0; } h2 { page-break-after: avoid; } tr { page-break-inside: avoid; } }
"""


def table(rows: Sequence[Sequence[str]], header: Sequence[str] = ()) -> str:
    """Rows of cells that are markup already, under a header of plain words."""
    head = "<tr>" + "".join(f"<th>{escape(h)}</th>" for h in header) + "</tr>" if header else ""
    body = "".join("<tr>" + "".join(f"<td>{cell}</td>" for cell in row) + "</tr>" for row in rows)
    return f"<table width='100%'>{head}{body}</table>"


def verdict(word: str, told: str = "") -> str:
    """A verdict with its sign and colour; told stands in its place where another word is meant."""
    colour = _COLOURS.get(word, "#5B666E")
    return f"<span style='color:{colour}'><b>{_SIGNS.get(word, '?')} {escape(told or word)}</b></span>"


def folded(rows: Sequence[T]) -> tuple[list[T], int]:
    """As many rows as are shown, and how many more there are."""
    return list(rows[:MOST]), max(len(rows) - MOST, 0)
