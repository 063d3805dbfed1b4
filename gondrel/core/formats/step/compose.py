"""A STEP file in the making: numbered records, shared ones written once, then the whole text."""

from __future__ import annotations

import re

from gondrel.core.formats.step.tokens import InstanceReference, Parameter, encode_string, format_parameter

__all__ = ["RecordComposer", "ref"]

_LINE = 78
_NAMED = re.compile(r"^(\w+\s*\(\s*)'(?:[^']|'')*'")


def ref(number: int) -> InstanceReference:
    """A pointer to a record."""
    return InstanceReference(number)


class RecordComposer:
    """Collects records and gives them numbers."""

    def __init__(self) -> None:
        self._records: list[str] = []
        self._shared: dict[str, int] = {}

    def __len__(self) -> int:
        return len(self._records)

    @property
    def next_number(self) -> int:
        """The number the next record gets."""
        return len(self._records) + 1

    def add(self, keyword: str, *parameters: Parameter) -> int:
        """Add a record; returns its number."""
        return self.add_text(keyword + format_parameter(parameters))

    def share(self, keyword: str, *parameters: Parameter) -> int:
        """Add a record, or return the number of an equal one added this way before."""
        return self.share_text(keyword + format_parameter(parameters))

    def share_text(self, text: str) -> int:
        """The same for a record given as text without its number."""
        if text not in self._shared:
            self._shared[text] = self.add_text(text)
        return self._shared[text]

    def add_text(self, text: str) -> int:
        """Add a record given as text without its number."""
        self._records.append(text)
        return len(self._records)

    def name(self, number: int, name: str) -> None:
        """Give a record that was added a name, as its first parameter."""
        text = self._records[number - 1]
        self._records[number - 1] = _NAMED.sub(lambda m: m[1] + encode_string(name), text, count=1)

    def data(self) -> str:
        """The records as the lines of a DATA section."""
        return "".join(_wrapped(f"#{number}={text};") for number, text in enumerate(self._records, 1))


_BREAK = re.compile(r"'(?:[^']|'')*'|[^',]+|,")


def _wrapped(line: str) -> str:
    """Break a record behind commas, never inside a string, at about 78 characters."""
    if len(line) <= _LINE:
        return line + "\n"
    out: list[str] = []
    row = ""
    for piece in _BREAK.findall(line):
        if row and len(row) + len(piece) > _LINE and piece != ",":
            out.append(row)
            row = ""
        row += piece
    out.append(row)
    return "\n".join(out) + "\n"
