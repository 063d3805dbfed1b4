"""What a STEP file holds, read from its text alone: the file card and the proof's second witness.

Pure Python, no kernel. The file is mapped, not loaded; records are indexed in one pass and their
parameters parsed only when asked for.
"""

from __future__ import annotations

import json
import math
import mmap
import re
from array import array
from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from itertools import islice
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import InputError, MalformedFile
from gondrel.core.formats.step.index import plain_index
from gondrel.core.formats.step.tokens import (
    HEADER_RECORD,
    RECORD,
    InstanceReference,
    Parameter,
    Typed,
    parse_parameters,
)

__all__ = ["Record", "Records", "open_records"]

_ENDING = b"END-ISO-10303-21;"
"""What stands behind it is no part of the file."""

_DATA = re.compile(rb"(?:^|[;\s/])DATA\s*(?:\((?:[^';]|'[^']*')*\))?\s*;")
_END = re.compile(rb"END-ISO-10303-21\s*;")
_REFERENCE = re.compile(rb"#(\d+)")
_STRING = re.compile(rb"'[^']*'")
_DIGITS = re.compile(rb"\d+")


class Record:
    """One record: its number, keyword and parameters; a complex record has several parts."""

    __slots__ = ("keyword", "number", "parts")

    def __init__(self, number: int, keyword: str, parts: dict[str, tuple[Parameter, ...]]) -> None:
        self.number = number
        self.keyword = keyword
        self.parts = parts

    @property
    def parameters(self) -> tuple[Parameter, ...]:
        """Parameters of a simple record."""
        return self.parts.get(self.keyword, ())

    def text(self, index: int) -> str:
        """A parameter as text, empty when it is missing or of another type."""
        value = self.parameters[index] if index < len(self.parameters) else None
        return value if isinstance(value, str) else ""

    def ref(self, index: int) -> int:
        """A parameter as a record number, 0 when it is missing or of another type."""
        value = self.parameters[index] if index < len(self.parameters) else None
        return value.number if isinstance(value, InstanceReference) else 0

    def refs(self, index: int) -> list[int]:
        """A list parameter's record numbers."""
        value = self.parameters[index] if index < len(self.parameters) else None
        if not isinstance(value, tuple):
            return []
        return [item.number for item in value if isinstance(item, InstanceReference)]


_MOST_POINTS = 200_000
_MOST_DIGITS = 18
"""So that a number of a record fits 64 bits."""

_POINT = re.compile(rb"CARTESIAN_POINT\s*\(\s*'[^']*'\s*,\s*\(([^,()]+),([^,()]+),([^,()]+)\)")


class Records:
    """The index of a STEP file. Use as a context manager or close it."""

    def __init__(self, path: Path, index: bytes = b"") -> None:
        self.path = path
        self._numbers = array("Q")
        self._starts = array("Q")
        self._kinds: defaultdict[bytes, array[int]] = defaultdict(lambda: array("Q"))
        self._cache: dict[int, Record] = {}
        self._stream = path.open("rb")
        try:
            self.size = path.stat().st_size
            self._buffer = mmap.mmap(self._stream.fileno(), 0, access=mmap.ACCESS_READ)
            if not index or not self._take_index(index):
                self._index()
        except BaseException:
            self.close()
            raise

    def __enter__(self) -> Records:
        return self

    def __exit__(self, *unused: object) -> None:
        self.close()

    def close(self) -> None:
        """Let go of the file."""
        if hasattr(self, "_buffer") and not self._buffer.closed:
            self._buffer.close()
        self._stream.close()

    def _index(self) -> None:
        data = _DATA.search(self._buffer)
        if data is None:
            raise MalformedFile(
                "there is no DATA section",
                file=str(self.path),
                where=f"{self.size} bytes read",
                hint="the file was cut off or never finished; ask for it again",
            )
        self._data_start = data.end()
        numbers, starts, kinds = self._numbers.append, self._starts.append, self._kinds
        end = data.end()
        last = self._buffer.rfind(_ENDING)
        last = last if last > end else len(self._buffer)
        plain = plain_index(self._buffer, end, last)
        if plain is not None:
            found, places, by_kind, self._tail = plain
            self._numbers = array("Q", found.astype("<u8").tobytes())
            self._starts = array("Q", places.astype("<u8").tobytes())
            for kind, ordinals in by_kind:
                kinds[kind] = array("Q", ordinals.astype("<u8").tobytes())
            return
        for ordinal, match in enumerate(RECORD.finditer(self._buffer, data.end(), last), 1):
            if len(match[1]) > _MOST_DIGITS:
                raise MalformedFile(
                    f"a record number has {len(match[1])} digits; no more than {_MOST_DIGITS} make sense",
                    file=str(self.path),
                    where=f"#{match[1][:12].decode('ascii')}...",
                )
            numbers(int(match[1]))
            starts(match.start())
            kinds[match[2]].append(ordinal)
            end = match.end()
        self._tail = end

    def index_bytes(self) -> bytes:
        """The index, for another process that reads the same file."""
        names = [kind.decode("ascii") for kind in self._kinds]
        head = {"size": self.size, "data": self._data_start, "tail": self._tail, "count": len(self),
                "kinds": dict(zip(names, map(len, self._kinds.values()), strict=True))}  # fmt: skip
        line = json.dumps(head).encode("ascii") + b"\n"
        columns = (self._numbers, self._starts, *self._kinds.values())
        return line + b"".join(column.tobytes() for column in columns)

    def _take_index(self, data: bytes) -> bool:
        """Take an index made elsewhere, unless the file was changed since."""
        line, _, rest = data.partition(b"\n")
        head = json.loads(line)
        if head["size"] != self.size:
            return False
        whole = array("Q", rest)
        count = head["count"]
        self._data_start, self._tail = head["data"], head["tail"]
        self._numbers, self._starts = whole[:count], whole[count : 2 * count]
        at = 2 * count
        for kind, number in head["kinds"].items():
            self._kinds[kind.encode("ascii")] = whole[at : at + number]
            at += number
        return True

    def __len__(self) -> int:
        return len(self._numbers)

    @property
    def is_complete(self) -> bool:
        """Whether the file ends as the standard asks; a missing ENDSEC alone is let pass."""
        return _END.search(self._buffer, self._tail) is not None

    @property
    def last_number(self) -> int:
        """Number of the last whole record, 0 when there is none."""
        return self._numbers[-1] if self._numbers else 0

    @property
    def tail_offset(self) -> int:
        """Offset in bytes behind the last whole record."""
        return self._tail

    @cached_property
    def counts(self) -> dict[str, int]:
        """Number of records by keyword; a complex record counts under each of its parts."""
        counts = {
            kind.decode("ascii").upper(): len(ordinals) for kind, ordinals in self._kinds.items() if kind
        }
        for part, ordinals in self._complex_of.items():
            counts[part] = counts.get(part, 0) + len(ordinals)
        return counts

    def small_lettered(self) -> list[int]:
        """Places, from 0, of the records whose keyword has small letters, which no keyword may have."""
        small = (of for kind, of in self._kinds.items() if kind != kind.upper())
        return sorted(ordinal - 1 for ordinals in small for ordinal in ordinals)

    @cached_property
    def _complex(self) -> list[tuple[str, ...]]:
        """The keywords of the parts of each complex record. Of those alike but for numbers and strings one
        is parsed."""
        known: dict[bytes, tuple[str, ...]] = {}
        parts = []
        for ordinal in self._kinds.get(b"", ()):
            match = RECORD.match(self._buffer, self._starts[ordinal - 1])
            assert match is not None
            form = _DIGITS.sub(b"0", _STRING.sub(b"''", match[3]))
            if form not in known:
                known[form] = tuple(self._parse(ordinal).parts)
            parts.append(known[form])
        return parts

    @cached_property
    def _complex_of(self) -> dict[str, list[int]]:
        """Complex records by the keyword of each of their parts."""
        found: defaultdict[str, list[int]] = defaultdict(list)
        for ordinal, parts in zip(self._kinds.get(b"", ()), self._complex, strict=True):
            for part in parts:
                found[part].append(ordinal)
        return dict(found)

    def count(self, *keywords: str) -> int:
        """How many records have one of these keywords."""
        return sum(self.counts.get(keyword, 0) for keyword in keywords)

    def of(self, *keywords: str) -> Iterator[Record]:
        """Every record with one of these keywords, complex ones included, in file order by keyword."""
        for keyword in keywords:
            for ordinal in self._kinds.get(keyword.encode("ascii"), ()):
                yield self._parse(ordinal)
            for ordinal in self._complex_of.get(keyword, ()):
                yield self._parse(ordinal)

    def plain(self, keyword: str) -> Iterator[Record]:
        """Every simple record of a keyword, in file order."""
        for ordinal in self._kinds.get(keyword.encode("ascii"), ()):
            yield self._parse(ordinal)

    def matches(self, keyword: str, pattern: re.Pattern[bytes]) -> Iterator[tuple[int, re.Match[bytes]]]:
        """Number of every simple record of a keyword whose parameters match a pattern, and the match.

        Much faster than parsing where there are many; records that do not match are passed over.
        """
        skip = re.compile(rb"#\d+\s*=\s*" + keyword.encode("ascii") + rb"\s*")
        for ordinal in self._kinds.get(keyword.encode("ascii"), ()):
            begin = skip.match(self._buffer, self._starts[ordinal - 1])
            match = pattern.match(self._buffer, begin.end()) if begin else None
            if match is not None:
                yield self._numbers[ordinal - 1], match

    def at(self, ordinal: int) -> Record:
        """The record at a place in the file, from 1. Raises IndexError."""
        if not 1 <= ordinal <= len(self._numbers):
            raise IndexError(ordinal)
        return self._parse(ordinal)

    def get(self, number: int) -> Record | None:
        """Record #number, None when the file has none."""
        ordinal = self.ordinal(number)
        return self._parse(ordinal) if ordinal else None

    def text_of(self, number: int) -> bytes:
        """What stands behind the equals sign of record #number, its strings emptied; empty without it."""
        ordinal = self.ordinal(number)
        match = RECORD.match(self._buffer, self._starts[ordinal - 1]) if ordinal else None
        return match[2] + _STRING.sub(b"''", match[3]) if match is not None else b""

    def line_of(self, ordinal: int) -> int:
        """In which line of the file a record starts, from 1."""
        begin = RECORD.match(self._buffer, self._starts[ordinal - 1])
        at = begin.start() if begin is not None else self._starts[ordinal - 1]
        while self._buffer[at : at + 1].isspace():
            at += 1
        count, place, step = 1, 0, 1 << 22
        while place < at:
            count += self._buffer[place : min(place + step, at)].count(b"\n")
            place += step
        return count

    def number_at(self, row: int) -> int:
        """The number of the record at a place in the file, from 0."""
        return self._numbers[row]

    def raw_at(self, row: int) -> bytes:
        """What stands behind the equals sign of the record at a place in the file, from 0."""
        match = RECORD.match(self._buffer, self._starts[row])
        assert match is not None
        return match[2] + match[3]

    def rows_with(self, text: bytes, most: int) -> list[int]:
        """The places of records, from 0, with a text in one of their strings, in whichever letters; at most
        so many."""
        pattern, wanted = re.compile(re.escape(text), re.IGNORECASE), text.lower()
        rows, last = list[int](), -1
        for match in pattern.finditer(self._buffer, self._data_start, self._tail):
            row = bisect_right(self._starts, match.start()) - 1
            if row == last:
                continue
            last = row
            if any(wanted in string.lower() for string in _STRING.findall(self.raw_at(row))):
                rows.append(row)
                if len(rows) >= most:
                    break
        return rows

    @property
    def highest_number(self) -> int:
        """The highest number a record has, 0 without any."""
        return max(self._numbers, default=0)

    def with_changes(self, changes: Mapping[int, bytes], numbers: Mapping[int, int]) -> bytes:
        """The file with other texts behind the equals signs of some records, and other numbers before them,
        by their places from 0."""
        return b"".join(self._rewritten(0, len(self._buffer), sorted(changes), changes, numbers))

    def only(self, kept: NDArray[np.bool_], changes: Mapping[int, bytes]) -> bytes:
        """A file of some of the records, each under its number and in its place.

        Args:
            kept: for each record whether it is in; changes: other texts behind the equals signs of some.
        """
        starts = np.append(np.frombuffer(self._starts, np.uint64).astype(np.int64), self._tail)
        edges = np.flatnonzero(np.diff(np.concatenate(([False], kept, [False])))).tolist()
        changed, parts = sorted(changes), [self.head()]
        for first, behind in zip(edges[::2], edges[1::2], strict=True):
            rows = changed[bisect_left(changed, first) : bisect_left(changed, behind)]
            parts += self._rewritten(int(starts[first]), int(starts[behind]), rows, changes, {})
        return b"".join((*parts, b"\nENDSEC;\nEND-ISO-10303-21;\n"))

    def _rewritten(
        self,
        at: int,
        end: int,
        rows: Sequence[int],
        changes: Mapping[int, bytes],
        numbers: Mapping[int, int],
    ) -> Iterator[bytes]:
        """A stretch of the file with other texts, and other numbers, of some records in it."""
        for row in rows:
            start = self._starts[row]
            match = RECORD.match(self._buffer, start)
            assert match is not None
            if row in numbers:
                yield from (self._buffer[at:start], b"#%d" % numbers[row])
                at = match.end(1)
            yield from (self._buffer[at : match.start(2)], changes[row])
            at = match.end(3)
        yield self._buffer[at:end]

    @cached_property
    def _sorted(self) -> tuple[list[int], list[int]]:
        order = sorted(range(len(self._numbers)), key=self._numbers.__getitem__)
        return [self._numbers[i] for i in order], [i + 1 for i in order]

    def ordinal(self, number: int) -> int:
        """Place of record #number in the file, from 1; 0 when the file has none."""
        if 0 < number <= len(self._numbers) and self._numbers[number - 1] == number:
            return number
        numbers, ordinals = self._sorted
        at = bisect_left(numbers, number)
        return ordinals[at] if at < len(numbers) and numbers[at] == number else 0

    def _parse(self, ordinal: int) -> Record:
        cached = self._cache.get(ordinal)
        if cached is not None:
            return cached
        match = RECORD.match(self._buffer, self._starts[ordinal - 1])
        assert match is not None
        number, keyword = int(match[1]), match[2].decode("ascii").upper()
        try:
            record = self._record(number, keyword, match[3])
        except ValueError as error:
            raise MalformedFile(
                f"its parameters can't be read: {error}", file=str(self.path), where=f"#{number}"
            ) from error
        self._cache[ordinal] = record
        return record

    @staticmethod
    def _record(number: int, keyword: str, body: bytes) -> Record:
        if keyword:
            return Record(number, keyword, {keyword: parse_parameters(body)})
        # A complex record's parts follow one another without commas.
        parts = parse_parameters(body)
        return Record(number, "", {part.name: part.parameters for part in parts if isinstance(part, Typed)})

    def header(self) -> dict[str, tuple[Parameter, ...]]:
        """Header records by keyword, their parameters decoded; a broken one is left out."""
        header: dict[str, tuple[Parameter, ...]] = {}
        for match in HEADER_RECORD.finditer(self._buffer, 0, self._data_start):
            try:
                header[match[1].decode("ascii").upper()] = parse_parameters(match[2])
            except ValueError:
                continue
        return header

    def numbers(self) -> NDArray[np.int64]:
        """The number of every record, in file order."""
        return np.frombuffer(self._numbers, np.uint64).astype(np.int64)

    def head(self) -> bytes:
        """The file up to its first record."""
        return self._buffer[: self._data_start] + b"\n"

    def columns(self) -> tuple[NDArray[np.int64], NDArray[np.int64], bytes]:
        """The number of every record, where it starts in the text that follows, and the text."""
        numbers = self.numbers()
        starts = np.frombuffer(self._starts, np.uint64).astype(np.int64)
        return numbers, starts - self._data_start, self._buffer[self._data_start : self._tail]

    def keywords(self) -> tuple[list[str], NDArray[np.int64]]:
        """Every keyword there is, and for each record which of them it has; a complex record has that of
        all its parts, joined by a plus."""
        names: dict[str, int] = {}
        which = np.full(len(self), -1, np.int64)
        for kind, ordinals in self._kinds.items():
            if kind:
                code = names.setdefault(kind.decode("ascii").upper(), len(names))
                which[np.frombuffer(ordinals, np.uint64).astype(np.int64) - 1] = code
        for ordinal, parts in zip(self._kinds.get(b"", ()), self._complex, strict=True):
            which[ordinal - 1] = names.setdefault("+".join(parts), len(names))
        return list(names), which

    def extent(self) -> float:
        """The largest extent of the cartesian points along an axis, in the file's own numbers.

        Of large files only the first 200,000 points are looked at.
        """
        low, high = [math.inf] * 3, [-math.inf] * 3
        for match in islice(_POINT.finditer(self._buffer, self._data_start), _MOST_POINTS):
            for axis, text in enumerate(match.groups()):
                try:
                    value = float(text)
                except ValueError:
                    continue
                low[axis], high[axis] = min(low[axis], value), max(high[axis], value)
        return max((h - lo for h, lo in zip(high, low, strict=True) if h >= lo), default=0.0)

    def dangling(self) -> list[tuple[int, int]]:
        """References to records the file does not hold: (from record, to record), at most 100."""
        known = set(self._numbers)
        named = {int(n) for n in set(_REFERENCE.findall(self._buffer, self._data_start))}
        missing = named - known
        if not missing:
            return []
        pairs: list[tuple[int, int]] = []
        for start, number in zip(self._starts, self._numbers, strict=True):
            match = RECORD.match(self._buffer, start)
            assert match is not None
            for target in _REFERENCE.findall(_STRING.sub(b"", match[3])):
                if int(target) in missing:
                    pairs.append((number, int(target)))
            if len(pairs) >= 100:
                break
        return pairs

    def swallowed(self) -> int:
        """Number of a record that runs on into the next for want of its semicolon, or 0."""
        for start, number in zip(self._starts, self._numbers, strict=True):
            match = RECORD.match(self._buffer, start)
            assert match is not None
            if b"=" in match[3] and re.search(rb"#\d+\s*=", _STRING.sub(b"", match[3])):
                return number
        return 0


def open_records(path: str, index: bytes = b"") -> Records:
    """Index a STEP file.

    Args:
        index: that of the same file, where it was made before.

    Raises:
        InputError: when the file can't be opened or is empty.
        MalformedFile: when it has no DATA section.
    """
    try:
        return Records(Path(path), index)
    except ValueError as error:
        raise MalformedFile("the file is empty", file=path) from error
    except OSError as error:
        raise InputError(f"can't be opened: {error.strerror}", file=path) from error
