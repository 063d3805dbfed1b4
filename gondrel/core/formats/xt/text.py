"""The text form: header, lexing by one pattern per node type, and writing.

Source: the published XT format reference, the part on the text file; separators, nulls, escapes
and line breaks were checked against an independent parser.
"""

from __future__ import annotations

import gc
import itertools
import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.xt.edits import MOST_USER_FIELDS, EditError, EditSource, is_embedded, learn_type
from gondrel.core.formats.xt.nodes import Document, Header, Node
from gondrel.core.formats.xt.schema import Field, NodeType

__all__ = ["END_OF_HEADER", "is_binary", "read_header_lines", "read_text", "write_text"]

END_OF_HEADER = b"**END_OF_HEADER"
_ENTRY = re.compile(r"([A-Z_0-9]+)=([^;]*);")
_NUMBER = r"(?:\d++ |\?|[+-]\d++ )"
_REAL = r"(?:[^ ?]++ |\?)"
_PATTERNS = {
    **dict.fromkeys("dnupw", _NUMBER),
    "f": _REAL,
    **dict.fromkeys("cl", "."),
    **dict.fromkeys("vh", r"(?:[^ ?]++ [^ ?]++ [^ ?]++ |\?)"),
    "i": r"(?:[^ ?]++ [^ ?]++ |\?)",
}
_TOKEN = re.compile(r"\?|[^ ?]+ ")
_TYPE = re.compile(r"(\d{1,9}) ")
_LENGTH = re.compile(r"(-?\d{1,10}) ")
_LINE = 80
_ESCAPES = {"\\": "\\", "0": "\0", "n": "\r", "r": "\n"}
_WORDS = {"d": 12, "n": 8, "u": 5, "p": 11, "w": 7, "f": 26, "v": 78, "h": 78, "i": 52}
"""Characters a value rarely exceeds; a wrong guess only costs a second look."""


def read_header_lines(data: bytes) -> tuple[tuple[tuple[str, str], ...], int]:
    """Entries of the header lines and where the data begin; no header gives none and 0."""
    at = data.find(END_OF_HEADER, 0, 1 << 20)
    if at < 0:
        return (), 0
    end = data.find(b"\n", at)
    text = data[:at].decode("latin-1").replace("\r", "").replace("\n", "")
    return tuple(_ENTRY.findall(text)), len(data) if end < 0 else end + 1


@contextmanager
def without_collection() -> Iterator[None]:
    """Build many objects that all live on without the collector going over them again and again."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


def is_binary(data: bytes) -> bool:
    """Whether the nodes after the header are in a binary form."""
    entries, start = read_header_lines(data[: 1 << 16])
    return dict(entries).get("FORMAT", "").lower() == "binary" or data[start : start + 2] == b"PS"


def read_text(data: bytes, *, file: str = "") -> Document:
    """The nodes of a text file.

    Raises:
        MalformedFile: when it breaks the format's rules, saying at which byte.
        UnsupportedContent: when its schema can't be known.
    """
    entries, start = read_header_lines(data)
    body = data[start:].decode("latin-1")
    try:
        return _Reader(_joined(body), entries, file, start, body).read()
    except MalformedFile as first:
        mended = _rejoined(body)
        if mended is None:
            raise
        try:
            document = _Reader(mended, entries, file, start, body).read()
        except MalformedFile:
            raise first from None
        document.remarks.append("blanks lost at the ends of lines were put back to read it")
        return document


def _joined(body: str) -> str:
    return body.replace("\r", "").replace("\n", "")


def _rejoined(body: str) -> str | None:
    """The text with a blank for each line end that has none beside it, None when nothing changes."""
    lines = body.replace("\r", "").split("\n")
    parts = [lines[0]]
    for before, line in itertools.pairwise(lines):
        if before and line and not before.endswith(" ") and not line.startswith(" "):
            parts.append(" ")
        parts.append(line)
    made = "".join(parts)
    return made if made != "".join(lines) else None


@dataclass(frozen=True, slots=True)
class _Known:
    """How nodes of a type are read.

    Args:
        match: matches a node but its last field where that is of many values: how many there are then, the
            index, and the fields; parts: those fields, one group each.
        last: that field; has_user: whether user fields follow; is_plain: whether neither comes.
    """

    kind: NodeType
    match: Callable[[str, int], re.Match[str] | None]
    parts: re.Pattern[str]
    last: Field | None
    has_user: bool
    is_plain: bool


class _Reader:
    """Reads nodes from a text without line ends."""

    def __init__(
        self, text: str, entries: tuple[tuple[str, str], ...], file: str, start: int, body: str
    ) -> None:
        self.text = text
        self.at = 0
        self.entries = entries
        self.file = file
        self._start, self._body = start, body
        self.types: dict[int, NodeType] = {}
        self.patterns: dict[str, _Known] = {}
        self.user_fields = 0

    def fail(self, why: str) -> MalformedFile:
        """The error at the present place; its byte is counted in the file with its line ends."""
        signs = (place for place, sign in enumerate(self._body) if sign not in "\r\n")
        place = next(itertools.islice(signs, self.at, None), len(self._body))
        return MalformedFile(why, file=self.file, where=f"byte {self._start + place:,}")

    def number(self) -> int:
        """A whole number with its blank. Raises MalformedFile."""
        match = _LENGTH.match(self.text, self.at)
        if match is None:
            raise self.fail("a whole number was expected")
        self.at = match.end()
        return int(match[1])

    def chars(self, count: int) -> str:
        """So many characters. Raises MalformedFile when there are not as many."""
        text = self.text[self.at : self.at + count]
        if len(text) != count:
            raise self.fail("the file ends within a text")
        self.at += count
        return text

    def string(self) -> str:
        """A counted string."""
        count = self.number()
        if count < 0:
            raise self.fail("a text has a negative length")
        return self.chars(count)

    def read(self) -> Document:
        """The whole file."""
        header = self._head()
        with without_collection():
            return Document(header, self.types, self._nodes(header))

    def _nodes(self, header: Header) -> dict[int, Node]:
        nodes: dict[int, Node] = {}
        text, at = self.text, self.at
        while True:
            behind = text.find(" ", at) + 1
            known = self.patterns.get(text[at:behind])
            if known is None:
                self.at = at
                if (number := self._type(len(nodes))) == 1:
                    break
                behind = self.at
                known = self._learn(number, header.embedded)
                self.patterns[text[at:behind]] = known
                behind = self.at
            match = known.match(text, behind)
            if match is None:
                self.at = behind
                raise self.fail(f"the fields of a {known.kind.name} were expected")
            if known.is_plain:
                at, index = match.end(), int(match[1])
                node = Node(known.kind, index, text[match.end(1) + 1 : at], known.parts)
            else:
                node = self._node(known, match)
                at, index = self.at, node.index
            if index in nodes:
                self.at = at
                raise self.fail(f"there are two nodes of index {index}")
            nodes[index] = node
        if not nodes:
            raise self.fail("there is no node in it")
        return nodes

    def _type(self, count: int) -> int:
        """The number of the next node's type. Raises MalformedFile."""
        match = _TYPE.match(self.text, self.at)
        if match is None:
            if self.at >= len(self.text.rstrip()):
                raise self.fail(f"the file ends after {count:,} nodes without its end mark")
            raise self.fail("the number of a node type was expected")
        self.at = match.end()
        return int(match[1])

    def _head(self) -> Header:
        if self.text[:1] != "T":
            raise self.fail("the data do not begin with T")
        self.at = 1
        version = self.string()
        key = self.string()
        embedded = is_embedded(key, self.file)
        if embedded:
            self.number()
        self.user_fields = self.number()
        if not 0 <= self.user_fields <= MOST_USER_FIELDS:
            raise self.fail(f"nodes with {self.user_fields} user fields are not possible")
        return Header("text", self.entries, version, key, self.user_fields, embedded)

    def _learn(self, number: int, embedded: bool) -> _Known:
        source = EditSource(self.number, lambda: self.chars(1), self.string, self.number, self.number)
        try:
            kind = learn_type(number, source if embedded else None)
        except EditError as error:
            raise self.fail(str(error)) from error
        last = kind.fields[-1] if kind.is_variable else None
        fixed = kind.fields[:-1] if last else kind.fields
        head = r"(\d{1,9}) (\d{1,10}) " if last else r"(\d{1,10}) "
        each = [(_PATTERNS[f.letter], f.count) for f in fixed]
        fields = [f"(?:{one}){{{count}}}" if count > 1 else one for one, count in each]
        whole = re.compile(head + "".join(fields), re.DOTALL)
        parts = re.compile("".join(f"({field})" for field in fields), re.DOTALL)
        self.types[number] = kind
        has_user = bool(self.user_fields and kind.has_user_fields)
        return _Known(kind, whole.match, parts, last, has_user, last is None and not has_user)

    def _node(self, known: _Known, match: re.Match[str]) -> Node:
        """A node that is not plain, from its fields but the last one where that is of many values."""
        self.at = match.end()
        last, first = known.last, match.lastindex or 1
        raw: list[Any] | str = self.text[match.end(first) + 1 : self.at]
        if last is not None:
            fields = known.parts.match(self.text, match.end(first) + 1)
            assert fields is not None
            raw = [*fields.groups(), self._run(last.letter, int(match[1]))]
        user: tuple[int, ...] = ()
        if known.has_user:
            user = tuple(self.number() for _ in range(self.user_fields))
        return Node(known.kind, int(match[first]), raw, known.parts, user)

    def _run(self, letter: str, count: int) -> Any:
        """The text of a run of values; characters are decoded at once."""
        if count > len(self.text) - self.at:
            raise self.fail(f"a run of {count:,} values is longer than the rest of the file")
        if letter == "c":
            return self._characters(count)
        if letter == "l":
            return self.chars(count)
        size = {"v": 3, "h": 3, "i": 2}.get(letter, 1)
        guess = count * _WORDS[letter] + 64
        rest = self.text[self.at : self.at + guess]
        parts = rest.split(" ", count * size)
        taken = len(rest) - len(parts[-1])
        if len(parts) == count * size + 1 and "?" not in rest[:taken]:
            self.at += taken
            return rest[:taken]
        begun = self.at
        for _ in range(count):
            token = _TOKEN.match(self.text, self.at)
            for _ in range(0 if token and token[0] == "?" else size - 1):
                token = _TOKEN.match(self.text, token.end()) if token else None
            if token is None:
                raise self.fail("a run of values ends early")
            self.at = token.end()
        return self.text[begun : self.at]

    def _characters(self, count: int) -> str:
        plain = self.text[self.at : self.at + count]
        if "\\" not in plain:
            return self.chars(count)
        made: list[str] = []
        while len(made) < count:
            sign = self.chars(1)
            if sign == "\\":
                sign = self.chars(1)
                if sign.isdigit() and sign != "0":
                    made.extend(" " * int(sign))
                    continue
                sign = _ESCAPES.get(sign, sign)
            made.append(sign)
        return "".join(made[:count])


# --- writing ---------------------------------------------------------------------------------


def _text_of(value: Any, letter: str) -> str:
    if letter in "dnupw":
        return "?" if value is None else f"{value} "
    if letter == "f":
        return "?" if value is None else f"{_real(value)} "
    if letter in "cl":
        return str(value)
    return "?" if value is None else "".join(f"{_real(v)} " for v in value)


def _real(value: float) -> str:
    if value != value or value in (float("inf"), float("-inf")):
        raise ValueError("a file can't hold a number that is not finite")
    text = repr(float(value))
    return text[:-2] if text.endswith(".0") else text


def _escaped(text: str) -> str:
    kept = text.replace("\\", "\\\\").replace("\0", "\\0")
    return kept.replace("\r\n", " ").replace("\n", " ").replace("\r", " ")


def _node_text(node: Node, tell: Callable[[int], str]) -> str:
    parts = [f"{node.type.number} ", tell(node.type.number)]
    values = node.values()
    if node.type.is_variable:
        parts.append(f"{len(values[-1])} ")
    parts.append(f"{node.index} ")
    for f, value in zip(node.type.fields, values, strict=True):
        if not f.count:
            parts.append(_text_of(value, f.letter))
        elif f.letter == "c":
            parts.append(_escaped(value))
        else:
            parts.extend(_text_of(v, f.letter) for v in value)
    parts.extend(f"{v} " for v in node.user)
    return "".join(parts)


def write_text(document: Document, *, edits: Callable[[int], str] | None = None) -> bytes:
    """The file of a document, in lines of at most 80 characters.

    Args:
        edits: for embedded schemas, the script to write at the first node of each type.
    """
    head = document.header
    declared: set[int] = set()

    def tell(number: int) -> str:
        if edits is None or number in declared:
            return ""
        declared.add(number)
        return edits(number)

    largest = f"{max(document.schema)} " if head.embedded else ""
    parts = [f"T{len(head.version)} {head.version}{len(head.key)} {head.key}{largest}{head.user_fields} "]
    parts.extend(_node_text(node, tell) for node in document.nodes.values())
    parts.append("1 0 ")
    return write_header(head) + _wrapped("".join(parts)).encode("latin-1", "replace")


def write_header(head: Header) -> bytes:
    """The header lines before the data."""
    alphabet = (
        "**ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz**************************",
        "**PARASOLID !\"#$%&'()*+,-./:;<=>?@[\\]^_`{|}~0123456789**************************",
    )
    lines = [*alphabet, "**PART1;"]
    lines += [f"{key}={value};" for key, value in head.entries if key not in ("SCH", "USFLD_SIZE")]
    lines += ["**PART2;", f"SCH={head.key};", f"USFLD_SIZE={head.user_fields};", "**PART3;"]
    lines.append("**END_OF_HEADER" + "*" * 65)
    return "".join(f"{line}\n" for line in lines).encode("latin-1", "replace")


def _wrapped(text: str) -> str:
    lines: list[str] = []
    at, end = 0, len(text)
    while end - at > _LINE:
        cut = text.rfind(" ", at + 1, at + _LINE)
        cut = cut if cut > at else at + _LINE
        lines.append(text[at:cut])
        at = cut
    lines.append(text[at:])
    return "\n".join(lines) + "\n"
