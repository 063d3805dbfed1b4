"""What reports are made of, as plain blocks, and the page they are set into; every text is escaped there.

The markup keeps to what simple renderers know, so that the same page serves for printing.
"""

from __future__ import annotations

import base64
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import TypeVar

from jinja2 import Environment, PackageLoader, StrictUndefined, Template

__all__ = [
    "MOST", "Block", "Bullets", "Cell", "Heading", "Marked", "Paragraph", "Pictures", "Table", "folded",
    "page", "picture_of",
]  # fmt: skip

T = TypeVar("T")

_SIGNS = {"carried": "\u2713", "altered": "\u25d0", "lost": "\u25c6", "added": "+", "unproved": "?"}
_COLOURS = {"carried": "#2F6F4F", "altered": "#9A640F", "lost": "#A63D40", "added": "#1D5C7A"}
MOST = 60
"""How many rows of a long list are shown."""

_WIDTH = 560
"""Width that pictures share, pixels."""


@dataclass(frozen=True, slots=True)
class Marked:
    """A verdict with its sign and colour; shown stands in its place where another word is meant."""

    word: str
    shown: str = ""


Cell = str | Marked


@dataclass(frozen=True, slots=True)
class Heading:
    """A heading; level 1 is the page's own."""

    text: str
    level: int = 2
    kind: str = "heading"


@dataclass(frozen=True, slots=True)
class Paragraph:
    """Text and verdicts one after another; quietly: what follows in the quiet colour."""

    parts: tuple[Cell, ...]
    is_quiet: bool = False
    quietly: str = ""
    kind: str = "paragraph"


@dataclass(frozen=True, slots=True)
class Bullets:
    """A list of texts."""

    items: tuple[str, ...]
    kind: str = "bullets"


@dataclass(frozen=True, slots=True)
class Table:
    """Rows of cells under a header."""

    rows: tuple[tuple[Cell, ...], ...]
    header: tuple[str, ...] = ()
    kind: str = "table"


@dataclass(frozen=True, slots=True)
class Inlined:
    """A picture as text: its caption and PNG bytes in base 64."""

    caption: str
    data: str


@dataclass(frozen=True, slots=True)
class Pictures:
    """Pictures side by side."""

    pictures: tuple[Inlined, ...]
    kind: str = "pictures"

    @property
    def width(self) -> int:
        """How wide each is, pixels."""
        return _WIDTH // max(len(self.pictures), 1)


Block = Heading | Paragraph | Bullets | Table | Pictures


def picture_of(caption: str, png: bytes) -> Inlined:
    """A picture that stands inside the page."""
    return Inlined(caption, base64.b64encode(png).decode("ascii"))


def folded(rows: Sequence[T]) -> tuple[list[T], int]:
    """As many rows as are shown, and how many more there are."""
    return list(rows[:MOST]), max(len(rows) - MOST, 0)


@cache
def _template() -> Template:
    loader = PackageLoader("gondrel.core.reports", ".")
    made = Environment(loader=loader, autoescape=True, undefined=StrictUndefined, trim_blocks=False)
    return made.get_template("page.html")


def page(title: str, blocks: Sequence[Block]) -> str:
    """The text of one HTML file."""
    return _template().render(title=title, blocks=blocks, signs=_SIGNS, colours=_COLOURS)
