"""The neutral binary form: big-endian values after PS and two null bytes.

Source: the published XT format reference, the part on neutral binary files; layout, packed indices
and null values were checked against an independent parser.
"""

from __future__ import annotations

import struct
from collections.abc import Callable
from functools import cache
from typing import Any

from gondrel.core.errors import MalformedFile, UnsupportedContent
from gondrel.core.formats.xt.edits import MOST_USER_FIELDS, EditError, EditSource, is_embedded, learn_type
from gondrel.core.formats.xt.nodes import Document, Header, Node
from gondrel.core.formats.xt.schema import Field, NodeType
from gondrel.core.formats.xt.text import read_header_lines, write_header

__all__ = ["NULL_INTEGER", "NULL_REAL", "read_binary", "write_binary"]

NULL_REAL = -3.14158e13
NULL_INTEGER = -32764
"""Values that stand for none (the format reference)."""

_CODES = {
    "d": "i",
    "n": "h",
    "u": "B",
    "c": "c",
    "l": "B",
    "w": "H",
    "f": "d",
    "v": "3d",
    "h": "3d",
    "i": "2d",
}
_SIZES = {"d": 4, "n": 2, "u": 1, "c": 1, "l": 1, "w": 2, "f": 8, "v": 24, "h": 24, "i": 16}
_NUMBERS = {"d": "i", "n": "h", "u": "B", "w": "H", "f": "d"}
_PACK = 32767


def read_binary(data: bytes, *, file: str = "") -> Document:
    """The nodes of a neutral binary file.

    Raises:
        MalformedFile: when it breaks the format's rules, saying at which byte.
        UnsupportedContent: when it is another binary form, or its schema can't be known.
    """
    entries, start = read_header_lines(data)
    return _Reader(data, entries, file, start).read()


class _Reader:
    def __init__(self, data: bytes, entries: tuple[tuple[str, str], ...], file: str, start: int) -> None:
        self.data = data
        self.at = start
        self.entries = entries
        self.file = file
        self.types: dict[int, NodeType] = {}
        self.readers: dict[int, list[tuple[Field, Callable[[], Any]]]] = {}
        self.user_fields = 0

    def fail(self, why: str) -> MalformedFile:
        """The error at the present place."""
        return MalformedFile(why, file=self.file, where=f"byte {self.at:,}")

    def take(self, count: int) -> bytes:
        """So many bytes. Raises MalformedFile when there are not as many."""
        part = self.data[self.at : self.at + count]
        if len(part) != count:
            raise self.fail("the file ends within a value")
        self.at += count
        return part

    def short(self) -> int:
        """A two-byte number."""
        return int.from_bytes(self.take(2), "big", signed=True)

    def integer(self) -> int:
        """A four-byte number."""
        return int.from_bytes(self.take(4), "big", signed=True)

    def index(self) -> int:
        """A packed index: one short below 32767, else a negative short and how many times 32767."""
        low = self.short()
        if low > 0:
            return low - 1
        value = -low - 1 + self.short() * _PACK
        if value < 0:
            raise self.fail("an index is negative")
        return value

    def string(self) -> str:
        """A string with a one-byte length."""
        return self.take(self.take(1)[0]).decode("latin-1")

    def read(self) -> Document:
        """The whole file."""
        header = self._head()
        nodes: dict[int, Node] = {}
        while True:
            number = self.short()
            if number == 1:
                break
            if number < 1:
                raise self.fail(f"{number} is not a node type")
            readers = self.readers.get(number) or self._learn(number, header.embedded)
            node = self._node(self.types[number], readers)
            if node.index in nodes:
                raise self.fail(f"there are two nodes of index {node.index}")
            nodes[node.index] = node
        if not nodes:
            raise self.fail("there is no node in it")
        return Document(header, self.types, nodes)

    def _head(self) -> Header:
        mark = self.take(4)
        if mark[:2] != b"PS":
            raise self.fail("the data do not begin with PS")
        if mark[2:] != b"\0\0":
            raise UnsupportedContent(
                "it is a machine-dependent binary file; only neutral binary is read",
                file=self.file,
                where=f"byte {self.at - 2:,}",
                hint="have it written as text or neutral binary",
            )
        length = self.short()
        if not 0 <= length < 4096:
            raise self.fail("the version is not a text")
        version = self.take(length).decode("latin-1")
        length = self.integer()
        if not 0 <= length < 256:
            raise self.fail("the schema key is not a text")
        key = self.take(length).decode("latin-1")
        embedded = is_embedded(key, self.file)
        if embedded:
            self.short()
        self.user_fields = self.integer()
        if not 0 <= self.user_fields <= MOST_USER_FIELDS:
            raise self.fail(f"nodes with {self.user_fields} user fields are not possible")
        return Header("binary", self.entries, version, key, self.user_fields, embedded)

    def _learn(self, number: int, embedded: bool) -> list[tuple[Field, Callable[[], Any]]]:
        source = EditSource(
            lambda: self.take(1)[0],
            lambda: self.take(1).decode("latin-1"),
            self.string,
            self.short,
            self.index,
        )
        try:
            kind = learn_type(number, source if embedded else None)
        except EditError as error:
            raise self.fail(str(error)) from error
        self.types[number] = kind
        self.readers[number] = [(f, self._single(f.letter)) for f in kind.fields]
        return self.readers[number]

    def _single(self, letter: str) -> Callable[[], Any]:
        if letter == "p":
            return self.index
        if letter == "c":
            return lambda: self.take(1).decode("latin-1")
        if letter == "l":
            return lambda: "T" if self.take(1)[0] else "F"
        unpack = struct.Struct(">" + _CODES[letter]).unpack
        size = _SIZES[letter]
        if letter in "vhi":
            return lambda: _vector(unpack(self.take(size)))
        null = NULL_REAL if letter == "f" else NULL_INTEGER
        return lambda: _scalar(unpack(self.take(size))[0], null)

    def _node(self, kind: NodeType, readers: list[tuple[Field, Callable[[], Any]]]) -> Node:
        length = self.integer() if kind.is_variable else 0
        index = self.index()
        raw: list[Any] = []
        for f, single in readers:
            if not f.count:
                raw.append(single())
            else:
                raw.append(self._run(f, single, length if f.count == 1 else f.count))
        user = tuple(self.integer() for _ in range(self.user_fields if kind.has_user_fields else 0))
        return Node(kind, index, raw, user=user)

    def _run(self, f: Field, single: Callable[[], Any], count: int) -> Any:
        least = 2 if f.letter == "p" else _SIZES[f.letter]
        if not 0 <= count * least <= len(self.data) - self.at:
            raise self.fail(f"a run of {count:,} values is longer than the rest of the file")
        if f.letter == "c":
            return self.take(count).decode("latin-1")
        if f.letter in _NUMBERS:
            values = struct.unpack(f">{count}{_NUMBERS[f.letter]}", self.take(count * least))
            null = NULL_REAL if f.letter == "f" else NULL_INTEGER
            return [None if v == null else v for v in values]
        return [single() for _ in range(count)]


def _scalar(value: Any, null: float) -> Any:
    return None if value == null else value


def _vector(values: tuple[float, ...]) -> tuple[float, ...] | None:
    return None if values[0] == NULL_REAL else values


# --- writing ---------------------------------------------------------------------------------


def _packed(index: int) -> bytes:
    if index < _PACK:
        return struct.pack(">h", index + 1)
    return struct.pack(">hh", -(index % _PACK + 1), index // _PACK)


@cache
def _struct(letter: str) -> struct.Struct:
    return struct.Struct(">" + _CODES[letter])


def _bytes_of(value: Any, letter: str) -> bytes:
    if letter == "p":
        return _packed(value)
    if letter == "c":
        return str(value).encode("latin-1", "replace")[:1]
    if letter == "l":
        return b"\1" if value == "T" else b"\0"
    packed = _struct(letter)
    if letter in "vhi":
        return packed.pack(*(value if value is not None else (NULL_REAL,) * (_SIZES[letter] // 8)))
    if letter == "f":
        if value is not None and not abs(value) < float("inf"):
            raise ValueError("a file can't hold a number that is not finite")
        return packed.pack(NULL_REAL if value is None else value)
    return packed.pack(NULL_INTEGER if value is None and letter != "u" else value or 0)


def write_binary(document: Document, *, edits: Callable[[int], bytes] | None = None) -> bytes:
    """The file of a document in neutral binary form.

    Args:
        edits: for embedded schemas, the script to write at the first node of each type.
    """
    head = document.header
    version, key = head.version.encode("latin-1"), head.key.encode("latin-1")
    parts = [write_header(head), b"PS\0\0", struct.pack(">h", len(version)), version]
    parts += [struct.pack(">i", len(key)), key]
    if head.embedded:
        parts.append(struct.pack(">h", max(document.schema)))
    parts.append(struct.pack(">i", head.user_fields))
    declared: set[int] = set()
    for node in document.nodes.values():
        kind = node.type
        parts.append(struct.pack(">h", kind.number))
        if edits is not None and kind.number not in declared:
            declared.add(kind.number)
            parts.append(edits(kind.number))
        values = node.values()
        if kind.is_variable:
            parts.append(struct.pack(">i", len(values[-1])))
        parts.append(_packed(node.index))
        for f, value in zip(kind.fields, values, strict=True):
            parts.extend(
                [_bytes_of(value, f.letter)] if not f.count else [_bytes_of(v, f.letter) for v in value]
            )
        parts.extend(struct.pack(">i", v) for v in node.user)
    parts.append(struct.pack(">hh", 1, 1))
    return b"".join(parts)
