"""File facts in words."""

from __future__ import annotations

from gondrel.core.model import FileFacts
from gondrel.core.reports.figures import count_of, size_of_file

__all__ = ["card_lines", "subtitle"]


def card_lines(card: FileFacts) -> list[tuple[str, str]]:
    """The file card as pairs of label and value; empty facts are left out."""
    writer = card.written_by
    unit = card.length_unit or "none given, mm assumed"
    count = card.count
    kinds = (
        ("solids", "solid"), ("sheets", "sheet"), ("wires", "wire"), ("meshes", "mesh"),
        ("surfaces", "surface"),
    )  # fmt: skip
    bodies = [_many(count(key), word) for key, word in kinds if count(key)]
    used = count("occurrences")
    products = str(count("products")) + (f", used {count_of(used, 'time')}" if used else "")
    looks = f"{count('styled_items')} styles, {count('layers')} layers" if count("styled_items") else ""
    if count("attributes"):
        looks = f"{count('attributes'):,} attributes"
    pairs = [
        ("Format", f"{card.label}, {card.variant}"),
        ("Size", ", ".join(t for t in (size_of_file(card.bytes), _records(card)) if t)),
        ("Unit", unit),
        ("Written by", writer.system),
        ("Translator", writer.translator),
        ("Author", ", ".join(t for t in (writer.author, writer.organisation) if t)),
        ("Date", writer.date.replace("T", " ")),
        ("Described as", writer.description),
        ("Authorised by", writer.authorisation),
        ("Products", products),
        ("Bodies", ", ".join(bodies) or "none of its own"),
        ("Looks", looks),
        ("Faces", f"{count('faces'):,}" if count("faces") else ""),
    ]
    return [(label, value) for label, value in pairs if value]


def _many(count: int, word: str) -> str:
    """A count with its noun; more than one mesh are meshes."""
    return f"{count} meshes" if word == "mesh" and count != 1 else count_of(count, word)


def _records(card: FileFacts) -> str:
    for key in ("records", "facets"):
        if card.count(key):
            return f"{card.count(key):,} {key}"
    return ""


def subtitle(card: FileFacts | None, received: str) -> str:
    """The line under the crossing's name."""
    if card is None:
        return "nothing received yet"
    when = f"received {received.replace('T', ' ')[:16]}" if received else "reading"
    return f"{when} \u00b7 {card.label} \u00b7 {card.length_unit or 'mm?'}"
