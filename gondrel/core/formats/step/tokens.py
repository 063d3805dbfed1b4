"""ISO 10303-21 clear text: records out of bytes, parameters out of records, strings both ways.

Source: ISO 10303-21, clauses 6 (tokens), 6.4.3 (string encoding), 8 and 9 (sections).
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from mmap import mmap

__all__ = [
    "RECORD",
    "Enumeration",
    "InstanceReference",
    "Parameter",
    "Typed",
    "decode_string",
    "encode_string",
    "format_parameter",
    "format_real",
    "numbers_in",
    "parse_parameters",
]

Buffer = bytes | mmap

_COMMENT = rb"/\*[^*]*+\*++(?:[^/*][^*]*+\*++)*+/"
_SPACE = rb"(?:\s|" + _COMMENT + rb")*+"
_BODY = rb"(?:[^';/]++|'[^']*+'|" + _COMMENT + rb"|/)*+"

RECORD = re.compile(
    rb"#(\d++)"
    + _SPACE
    + rb"="
    + _SPACE
    + rb"([A-Za-z_!][A-Za-z0-9_]*+|)"
    + _SPACE
    + rb"(\("
    + _BODY
    + rb");"
)
"""One record of a DATA section: number, keyword (empty for a complex record), parameters."""

HEADER_RECORD = re.compile(rb"([A-Za-z_!][A-Za-z0-9_]*+)" + _SPACE + rb"(\(" + _BODY + rb");")
"""One record of the HEADER section: keyword and parameters."""

_TOKEN = re.compile(
    rb"#\d++|[(),$*]|'(?:[^']|'')*+'|[+-]?\d+\.\d*(?:[Ee][+-]?\d+)?|[+-]?\d+(?:[Ee][+-]?\d+)?"
    rb"|\.[A-Za-z0-9_]+\.|[A-Za-z_!][A-Za-z0-9_]*|\s+|" + _COMMENT + rb'|"[0-9A-F]*"'
)
_OPEN, _CLOSE = b"()"
_BETWEEN = frozenset(b", \t\n\r\v\f/")


@dataclass(frozen=True, slots=True)
class InstanceReference:
    """A pointer to record #number."""

    number: int


@dataclass(frozen=True, slots=True)
class Enumeration:
    """An enumeration value without its dots."""

    name: str


@dataclass(frozen=True, slots=True)
class Typed:
    """A typed parameter or one part of a complex record: KEYWORD(parameters).

    A word without brackets, which no parameter may be, is one that has none.
    """

    name: str
    parameters: tuple[Parameter, ...]


@dataclass(frozen=True, slots=True)
class Derived:
    """The asterisk: a value the reader derives."""


Parameter = (
    str | int | float | None | InstanceReference | Enumeration | Typed | Derived | tuple["Parameter", ...]
)


def parse_parameters(text: bytes) -> tuple[Parameter, ...]:
    """The parameters of one record, from its outer brackets. Raises ValueError where it is broken.

    Example:
        >>> parse_parameters(b"('a',#2,(1.,.T.),$)")
        ('a', InstanceReference(number=2), (1.0, Enumeration(name='T')), None)
    """
    tokens: list[bytes] = _TOKEN.findall(text)
    if b"".join(tokens) != text:
        raise ValueError(f"unexpected {_unexpected(text)!r}")
    stack: list[tuple[list[Parameter], str | None]] = []
    own: list[Parameter] = []
    pending: str | None = None
    for token in tokens:
        first = token[0]
        if first in _BETWEEN:
            continue
        simple = _SIMPLE.get(first)
        if pending is not None and first != _OPEN:
            own.append(Typed(pending, ()))
            pending = None
        if simple is not None:
            own.append(simple(token))
        elif first == _OPEN:
            stack.append((own, pending))
            own, pending = [], None
        elif first == _CLOSE:
            if not stack:
                raise ValueError("a closing bracket too many")
            inner = tuple(own)
            own, word = stack.pop()
            own.append(inner if word is None else Typed(word, inner))
        else:
            pending = token.decode("ascii").upper()
    if stack or len(own) != 1 or not isinstance(own[0], tuple):
        raise ValueError("brackets do not match")
    return own[0]


def _number(token: bytes) -> int | float:
    if b"." in token:
        return float(token)
    return int(float(token)) if b"E" in token.upper() else int(token)


_SIMPLE: dict[int, Callable[[bytes], Parameter]] = {
    ord("#"): lambda token: InstanceReference(int(token[1:])),
    ord("'"): lambda token: decode_string(token[1:-1]),
    ord("$"): lambda _: None,
    ord("*"): lambda _: Derived(),
    ord("."): lambda token: Enumeration(token[1:-1].decode("ascii").upper()),
    ord('"'): lambda token: token.decode("ascii"),
    **dict.fromkeys(b"+-0123456789", _number),
}
"""What becomes of a token that is a value by itself, by its first sign."""


def _unexpected(text: bytes) -> bytes:
    """What stands where no token begins."""
    at = 0
    while match := _TOKEN.match(text, at):
        at = match.end()
    return text[at : at + 20]


_ESCAPE = re.compile(
    r"\\X2\\((?:[0-9A-Fa-f]{4})*)\\X0\\|\\X4\\((?:[0-9A-Fa-f]{8})*)\\X0\\|\\X\\([0-9A-Fa-f]{2})"
    r"|\\S\\(.)|\\P([A-I])\\|(\\\\)|('')|[\r\n]",
    re.DOTALL,
)


def decode_string(raw: bytes) -> str:
    r"""A Part 21 string without its quotes as text.

    Control directives \X2\, \X4\, \X\, \S\ and \P.\ are honoured; line breaks inside the string
    are not part of it; bytes outside ASCII are taken as UTF-8 where they are that, else Latin-1.

    Example:
        >>> decode_string(rb"Gr\X2\00F6\X0\\X\DFe it''s")
        "Größe it's"

    Source: ISO 10303-21, 6.4.3.
    """
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError:
        text = raw.decode("latin-1")
    if "\\" not in text and "'" not in text and "\n" not in text and "\r" not in text:
        return text
    page = 1

    def replaced(match: re.Match[str]) -> str:
        nonlocal page
        two, four, one, shifted, alphabet, slash, quote = match.groups()
        if two is not None:
            units = bytes.fromhex(two)
            return units.decode("utf-16-be", errors="replace")
        if four is not None:
            return bytes.fromhex(four).decode("utf-32-be", errors="replace")
        if one is not None:
            return chr(int(one, 16))
        if shifted is not None:
            return bytes([(ord(shifted) + 128) & 0xFF]).decode(f"iso8859-{page}", errors="replace")
        if alphabet is not None:
            page = ord(alphabet) - ord("A") + 1
            return ""
        return "\\" if slash else "'" if quote else ""

    return _ESCAPE.sub(replaced, text)


def encode_string(text: str) -> str:
    r"""Text as a quoted Part 21 string in printable ASCII.

    Example:
        >>> encode_string("Größe 1")
        "'Gr\\X2\\00F600DF\\X0\\e 1'"

    Source: ISO 10303-21, 6.4.3.3 (\X2\ for the basic plane, \X4\ beyond it).
    """
    out: list[str] = []
    at = 0
    while at < len(text):
        char = text[at]
        if " " <= char <= "~":
            out.append({"'": "''", "\\": "\\\\"}.get(char, char))
            at += 1
            continue
        wide = ord(char) > 0xFFFF
        end = at
        while end < len(text) and not " " <= text[end] <= "~" and (ord(text[end]) > 0xFFFF) == wide:
            end += 1
        digits = "".join(f"{ord(c):08X}" if wide else f"{ord(c):04X}" for c in text[at:end])
        out.append(f"\\X4\\{digits}\\X0\\" if wide else f"\\X2\\{digits}\\X0\\")
        at = end
    return "'" + "".join(out) + "'"


def format_real(value: float) -> str:
    """A real as Part 21 wants it: with a decimal point, shortest form that reads back the same."""
    text = repr(float(value)).upper()
    mantissa, _, exponent = text.partition("E")
    if "." not in mantissa:
        mantissa += "."
    elif mantissa.endswith(".0"):
        mantissa = mantissa[:-1]
    return f"{mantissa}E{int(exponent):+03d}" if exponent else mantissa


def format_parameter(value: Parameter) -> str:
    """One parameter as Part 21 text."""
    match value:
        case None:
            return "$"
        case bool():
            return ".T." if value else ".F."
        case str():
            return encode_string(value)
        case int():
            return str(value)
        case float():
            return format_real(value)
        case InstanceReference():
            return f"#{value.number}"
        case Enumeration():
            return f".{value.name}."
        case Typed():
            return f"{value.name}{_bracketed(value.parameters)}"
        case Derived():
            return "*"
        case _:
            return _bracketed(value)


def _bracketed(values: Iterable[Parameter]) -> str:
    return "(" + ",".join(format_parameter(value) for value in values) + ")"


def numbers_in(value: Parameter) -> list[int]:
    """The record numbers that a parameter holds, in lists however deep."""
    if isinstance(value, InstanceReference):
        return [value.number]
    return [n for part in value for n in numbers_in(part)] if isinstance(value, tuple) else []
