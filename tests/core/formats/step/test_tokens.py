from __future__ import annotations

import pytest

from gondrel.core.formats.step.tokens import (
    RECORD,
    Enumeration,
    InstanceReference,
    Typed,
    decode_string,
    encode_string,
    format_parameter,
    format_real,
    parse_parameters,
)

# Source: ISO 10303-21, 6.4.3 (the directives); the texts are ours.
DIRECTIVES = [
    (rb"plain", "plain"),
    (rb"it''s", "it's"),
    (rb"back\\slash", "back\\slash"),
    (rb"\X2\00D8\X0\ 12", "\u00d8 12"),
    (rb"\X2\65E5672C\X0\.", "\u65e5\u672c."),
    (rb"\X4\0001F600\X0\!", "\U0001f600!"),
    (rb"\X\E4", "\u00e4"),
    (rb"\S\d", "\u00e4"),
    (rb"\PB\\S\1", "\u0105"),
    (b"one\r\n two", "one two"),
    ("na\u00efve".encode(), "na\u00efve"),
    ("na\u00efve".encode("latin-1"), "na\u00efve"),
]


@pytest.mark.parametrize(("raw", "text"), DIRECTIVES)
def test_string_directives_are_decoded(raw: bytes, text: str) -> None:
    assert decode_string(raw) == text


@pytest.mark.parametrize(
    "text", ["", "Gr\u00f6\u00dfe", "a'b", "a\\b", "\u65e5\u672c \U0001f600x", "tab\t|"]
)
def test_strings_survive_and_are_ascii(text: str) -> None:
    written = encode_string(text)
    assert written.isascii()
    assert decode_string(written[1:-1].encode("ascii")) == text


def test_parameters_of_every_kind() -> None:
    parsed = parse_parameters(b"('a''b',#12,$,*,.T.,-3,4.5E-2,(1,(2.)),LENGTH_MEASURE(2.5))")
    assert parsed[0:3] == ("a'b", InstanceReference(12), None)
    assert parsed[4:7] == (Enumeration("T"), -3, 0.045)
    assert parsed[7] == (1, (2.0,))
    assert parsed[8] == Typed("LENGTH_MEASURE", (2.5,))


def test_a_word_without_brackets_is_no_value_that_is_passed_over() -> None:
    assert parse_parameters(b"(''l#10)") == ("", Typed("L", ()), InstanceReference(10))
    assert parse_parameters(b"(1,L)") == (1, Typed("L", ()))


@pytest.mark.parametrize("broken", [b"(1,2", b"(1))", b"(@)", b"1,2"])
def test_broken_parameters_raise(broken: bytes) -> None:
    with pytest.raises(ValueError, match=r"\w"):
        parse_parameters(broken)


def test_parameters_written_read_back_equal() -> None:
    values = (
        "x'y",
        InstanceReference(3),
        None,
        1.0,
        -2.5e-30,
        7,
        (1.0, "z"),
        Typed("A", (2.0,)),
        Enumeration("B"),
    )
    text = "(" + ",".join(format_parameter(v) for v in values) + ")"
    assert parse_parameters(text.encode()) == values


def test_reals_have_a_point_and_keep_every_digit() -> None:
    for value in (0.1, 1.0, 1e-7, 123456789.123456789, -1e300, 5e-324):
        text = format_real(value)
        assert "." in text.split("E")[0]
        assert float(text) == value


def test_odd_white_space_comments_and_line_breaks_in_strings() -> None:
    text = b"#1 = /* a ; comment */ FOO\n ( 'line\nbreak;' , #2 /* ' */ ) ;\n#2=(A(1)B('x'));"
    records = [(int(m[1]), m[2]) for m in RECORD.finditer(text)]
    assert records == [(1, b"FOO"), (2, b"")]
