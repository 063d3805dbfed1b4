"""What a record of a file says of a property."""

from __future__ import annotations

from gondrel.core.model.origins import RecordView
from gondrel.core.service.source import record_at

__all__ = ["VALUES", "says"]

VALUES = {"Text": "it's", "Count": "7", "Weight": "0.125", "Checked": "", "Position": "12"}
"""How the values of the small assembly's properties begin in all formats, as far as they begin alike."""


def says(path: str, record: RecordView, key: str) -> bool:
    """Whether it holds a property's key and value; in XT those stand in nodes that it refers to."""
    if path.endswith(".x_t"):
        said = "".join(record_at(path, found.number).text for found in record.refers)
        return all(", ".join(str(ord(letter)) for letter in text) in said for text in (key, VALUES[key]))
    said = record.text.replace("''", "'")
    return key in said and VALUES[key] in said.partition(key)[2]
