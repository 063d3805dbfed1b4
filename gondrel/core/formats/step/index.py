"""The index of a plainly written STEP file, made in bulk; other writings are left to the pattern.

Source: ISO 10303-21, clause 5: an instance is a number sign, digits, an equals sign, a keyword with its
parameters or a complex one in parentheses, and a semicolon; strings stand between apostrophes.
"""

from __future__ import annotations

import mmap
import re

import numpy as np
from numpy.typing import NDArray

__all__ = ["plain_index"]

Bytes = NDArray[np.uint8]
Ints = NDArray[np.int64]

_PIECE = 1 << 22
_ROWS = 1 << 18
"""How many records are looked at at once."""

_SPACES = 4
"""White signs that may stand between two records; with more the file is not written plainly."""

_MOST_DIGITS, _LONGEST = 18, 96
_KEYWORD = re.compile(rb"[A-Za-z_!][A-Za-z0-9_]*")
_PRIME = np.uint64(0x9E3779B97F4A7C15)


def plain_index(
    buffer: mmap.mmap | bytes, begin: int, end: int
) -> tuple[Ints, Ints, list[tuple[bytes, Ints]], int] | None:
    """Numbers and starts of all records, and for each keyword the places of its records, from 1.

    Args:
        begin: where the data begins; end: where the file's last line begins.

    Returns: them, and where the last record ends; None where anything between two semicolons is no record
        that is plainly written, and where there are comments.
    """
    if buffer.find(b"/*", begin, end) >= 0:
        return None
    data = np.frombuffer(buffer, np.uint8)
    found = _semicolons(data, begin, end)
    if len(found) < 2:
        return None
    starts = _past_spaces(data, np.concatenate([[begin], found[:-1] + 1]))
    is_record = data[starts] == 35
    if not is_record[:-1].all() or (not is_record[-1] and not _ends(data, int(starts[-1]))):
        return None
    starts, found = starts[is_record], found[is_record]
    if not (data[found - 1] == 41).all():
        return None
    numbers, kinds = np.empty(len(starts), np.int64), _Kinds(data)
    for low in range(0, len(starts), _ROWS):
        rows = slice(low, low + _ROWS)
        made = _numbers(data, starts[rows])
        if made is None or not kinds.take(made[1], found[rows]):
            return None
        numbers[rows] = made[0]
    return numbers, starts, kinds.places(), int(found[-1]) + 1


def _ends(data: Bytes, at: int) -> bool:
    return bytes(data[at : at + 6]) == b"ENDSEC"


def _semicolons(data: Bytes, begin: int, end: int) -> Ints:
    """Where semicolons stand outside strings."""
    pieces: list[Ints] = []
    quotes_before = 0
    for low in range(begin, end, _PIECE):
        piece = data[low : min(low + _PIECE, end)]
        semicolons, quotes = np.flatnonzero(piece == 59), np.flatnonzero(piece == 39)
        outside = (np.searchsorted(quotes, semicolons) + quotes_before) % 2 == 0
        pieces.append(semicolons[outside] + low)
        quotes_before += len(quotes)
    return np.concatenate(pieces) if pieces else np.empty(0, np.int64)


def _numbers(data: Bytes, starts: Ints) -> tuple[Ints, Ints] | None:
    """The number of each record, and where what stands behind its equals sign begins; None where one has no
    plain number."""
    at = starts + 1
    numbers = np.zeros(len(starts), np.int64)
    going = np.ones(len(starts), bool)
    for place in range(_MOST_DIGITS + 1):
        digits = data[at].astype(np.int64) - 48
        going &= (digits >= 0) & (digits <= 9)
        if not going.any():
            break
        if place == _MOST_DIGITS:
            return None
        numbers = np.where(going, numbers * 10 + digits, numbers)
        at = at + going
    if (at == starts + 1).any():
        return None
    at = _past_spaces(data, at)
    return (numbers, _past_spaces(data, at + 1)) if (data[at] == 61).all() else None


def _past_spaces(data: Bytes, at: Ints) -> Ints:
    """Places behind the white signs that stand there, of which few are looked at."""
    for _ in range(_SPACES):
        signs = data[at]
        white = (signs == 32) | ((signs >= 9) & (signs <= 13))
        if not white.any():
            break
        at = at + white
    return at


class _Kinds:
    """Keywords in the order they first appear, each with its records; of a complex record it is empty.

    Records are told apart by a hash of 64 bits of their keyword.
    """

    def __init__(self, data: Bytes) -> None:
        self.data = data
        self.names: list[bytes] = []
        self._code_of: dict[int, int] = {}
        self._codes: list[NDArray[np.int32]] = []

    def take(self, keywords: Ints, ends: Ints) -> bool:
        """Take the next records; False where one has no keyword with a parenthesis right behind it.

        Args:
            keywords: where their keywords begin; ends: where their semicolons stand.
        """
        data, begin = self.data, int(keywords[0])
        opening = np.flatnonzero(data[begin : int(ends[-1])] == 40) + begin
        if not len(opening):
            return False
        lengths = opening[np.minimum(np.searchsorted(opening, keywords), len(opening) - 1)] - keywords
        if lengths.min() < 0 or lengths.max() > _LONGEST:
            return False
        hashes = lengths.astype(np.uint64)
        for word in range(0, int(lengths.max()), 8):
            rows = np.flatnonzero(lengths > word)
            signs = data[keywords[rows][:, None] + np.arange(word, word + 8)]
            signs = np.where(np.arange(8) < (lengths[rows] - word)[:, None], signs, 0).astype(np.uint8)
            values = np.ascontiguousarray(signs).view("<u8")[:, 0]
            hashes[rows] = (hashes[rows] ^ values) * _PRIME + np.uint64(1)
        unique, first, inverse = np.unique(hashes, return_index=True, return_inverse=True)
        own = np.empty(len(unique), np.int32)
        for place in np.argsort(first).tolist():
            start = int(keywords[first[place]])
            keyword = bytes(data[start : start + int(lengths[first[place]])])
            if keyword and not _KEYWORD.fullmatch(keyword):
                return False
            code = self._code_of.setdefault(int(unique[place]), len(self.names))
            if code == len(self.names):
                self.names.append(keyword)
            own[place] = code
        self._codes.append(own[inverse])
        return True

    def places(self) -> list[tuple[bytes, Ints]]:
        """The keywords, each with the places of its records, from 1."""
        codes = np.concatenate(self._codes)
        order = np.argsort(codes, kind="stable")
        bounds = np.searchsorted(codes[order], np.arange(len(self.names) + 1))
        return [(name, order[bounds[n] : bounds[n + 1]] + 1) for n, name in enumerate(self.names)]
