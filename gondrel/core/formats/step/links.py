"""Which record of a STEP file refers to which, for all of them at once.

Records are called by their ordinals here, from 0; a reference inside a string is none.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.formats.step.records import Records

__all__ = ["Links", "links_of"]

Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

_HASH, _QUOTE, _ZERO = ord("#"), ord("'"), ord("0")
_MOST_DIGITS = 18
_COMMENT = re.compile(rb"/\*.*?\*/", re.DOTALL)


@dataclass(frozen=True, slots=True)
class Links:
    """The references of all records, row by row.

    Args:
        starts: (n + 1,) where the references of each record begin; targets: the records referred to,
            -1 where the file holds none.
    """

    starts: Ints
    targets: Ints

    @property
    def owners(self) -> Ints:
        """The record that each reference stands in."""
        return np.repeat(np.arange(len(self.starts) - 1), np.diff(self.starts))

    def leading_to(self, rows: Flags) -> Flags:
        """Which references lead to one of some records."""
        return np.asarray((self.targets >= 0) & rows[np.maximum(self.targets, 0)], bool)

    def of(self, row: int) -> list[int]:
        """The records that one refers to."""
        return [int(t) for t in self.targets[self.starts[row] : self.starts[row + 1]] if t >= 0]

    def reached(self, seeds: Flags, followed: Flags | None = None) -> Flags:
        """All records that can be reached from some, themselves included.

        Args:
            followed: for each reference, whether it is followed; all when not given.
        """
        seen = seeds.copy()
        front = np.flatnonzero(seeds)
        while len(front):
            counts = self.starts[front + 1] - self.starts[front]
            shift = np.repeat(self.starts[front] - np.cumsum(counts) + counts, counts)
            edges = np.arange(int(counts.sum())) + shift
            if followed is not None:
                edges = edges[followed[edges]]
            targets = self.targets[edges]
            targets = targets[targets >= 0]
            front = np.unique(targets[~seen[targets]])
            seen[front] = True
        return seen

    def to_bytes(self) -> bytes:
        """For another process."""
        return len(self.starts).to_bytes(8, "little") + self.starts.tobytes() + self.targets.tobytes()

    @classmethod
    def from_bytes(cls, data: bytes) -> Links:
        """What to_bytes gave."""
        count = int.from_bytes(data[:8], "little")
        whole = np.frombuffer(data, np.int64, offset=8)
        return cls(whole[:count], whole[count:])


def links_of(records: Records) -> Links:
    """The references of all records of a file.

    Source: ISO 10303-21, clause 6: an entity instance name is a number sign and digits; strings stand
    between apostrophes, comments between solidus and asterisk.
    """
    numbers, begins, text = records.columns()
    data = np.frombuffer(text, np.uint8)
    hashes = np.flatnonzero(data == _HASH)
    owners = np.searchsorted(begins, hashes, "right") - 1
    inside = (owners >= 0) & ~np.isin(hashes, begins)
    hashes, owners = hashes[inside], owners[inside]
    quotes = np.flatnonzero(data == _QUOTE)
    before = np.searchsorted(quotes, hashes) - np.searchsorted(quotes, begins[owners])
    plain = before % 2 == 0
    for comment in _COMMENT.finditer(text) if b"/*" in text else ():
        plain &= (hashes < comment.start()) | (hashes >= comment.end())
    hashes, owners = hashes[plain], owners[plain]
    values, has_digits = _numbers_at(data, hashes)
    hashes, owners, values = hashes[has_digits], owners[has_digits], values[has_digits]
    starts = np.searchsorted(owners, np.arange(len(numbers) + 1))
    return Links(starts.astype(np.int64), _ordinals(numbers, values))


def _numbers_at(data: NDArray[np.uint8], hashes: Ints) -> tuple[Ints, Flags]:
    """The number behind each number sign, and whether there is one."""
    values = np.zeros(len(hashes), np.int64)
    going = np.ones(len(hashes), bool)
    first = going
    for place in range(1, _MOST_DIGITS + 1):
        at = np.minimum(hashes + place, len(data) - 1)
        digits = data[at].astype(np.int64) - _ZERO
        going = going & (digits >= 0) & (digits <= 9) & (hashes + place < len(data))
        if place == 1:
            first = going
        if not going.any():
            break
        values = np.where(going, values * 10 + digits, values)
    return values, first


def _ordinals(numbers: Ints, wanted: Ints) -> Ints:
    """Place of each number among those of the records, -1 where there is none."""
    if not len(numbers):
        return np.full(len(wanted), -1)
    order = np.argsort(numbers, kind="stable")
    ranked = numbers[order]
    at = np.minimum(np.searchsorted(ranked, wanted), len(ranked) - 1)
    return np.where(ranked[at] == wanted, order[at], -1).astype(np.int64)
