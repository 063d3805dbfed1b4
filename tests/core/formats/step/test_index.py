"""The index made in bulk against the one by the pattern, on outside files and on other writings."""

from __future__ import annotations

from pathlib import Path

import pytest

from gondrel.core.formats.step.index import plain_index
from gondrel.core.formats.step.records import _ENDING, open_records
from gondrel.core.formats.step.tokens import RECORD

DATA = b"DATA;\n"


def by_pattern(text: bytes, begin: int, end: int):
    numbers, starts, kinds, tail = [], [], {}, begin
    for place, match in enumerate(RECORD.finditer(text, begin, end), 1):
        numbers.append(int(match[1]))
        starts.append(match.start())
        kinds.setdefault(match[2], []).append(place)
        tail = match.end()
    return numbers, starts, list(kinds.items()), tail


def plainly(text: bytes, begin: int, end: int):
    made = plain_index(text, begin, end)
    if made is None:
        return None
    numbers, starts, kinds, tail = made
    return numbers.tolist(), starts.tolist(), [(kind, places.tolist()) for kind, places in kinds], tail


def bounds(text: bytes) -> tuple[int, int]:
    last = text.rfind(_ENDING)
    return text.index(b"DATA;") + 5, last if last > 0 else len(text)


@pytest.mark.slow
def test_outside_files(as1: str, occt_files: list[str], demo_file: str) -> None:
    plain = 0
    for path in (as1, demo_file, *occt_files):
        text = Path(path).read_bytes()
        made = plainly(text, *bounds(text))
        if made is not None:
            plain += 1
            assert made == by_pattern(text, *bounds(text)), path
    assert plain >= 3, "most are written plainly"
    with open_records(as1) as records:
        assert records.count("ADVANCED_FACE") == 53


@pytest.mark.parametrize(
    "body",
    [
        b"#1=A(1);\n#2=BC((#1,'x;y'),$);\nENDSEC;\n",
        b"#1 = A( 1 );#2= (A()B(1));\r\n#3=A(1.E2);\r\nENDSEC;\n",
        b"#10=A('it''s; #5=B(1)');#11=A('');ENDSEC;\n",
        b"#1=a_1(1);#2=!A_1(1);#3=A_VERY_LONG_KEYWORD_OF_MANY_SIGNS(1);ENDSEC;\n",
    ],
)
def test_plain_writings(body) -> None:
    text = DATA + body
    made = plainly(text, len(DATA), len(text))
    assert made is not None and made == by_pattern(text, len(DATA), len(text))


@pytest.mark.parametrize(
    "body",
    [
        b"/* c */#1=A(1);\n#2=B(1);\nENDSEC;\n",
        b"#1=A(1);\nrubbish;\n#2=B(1);\nENDSEC;\n",
        b"#1=A(1;\n#2=B(1);\nENDSEC;\n",
        b"#1=A('open);\n#2=B(1);\nENDSEC;\n",
        b"#1A=A(1);#2=B(1);\nENDSEC;\n",
        b"#1=A 1);#2=B(1);\nENDSEC;\n",
        b"#1=A (1);#2=B(1);\nENDSEC;\n",
        b"#1234567890123456789=A(1);#2=B(1);\nENDSEC;\n",
        b"",
    ],
)
def test_other_writings_are_left_to_the_pattern(body) -> None:
    text = DATA + body
    assert plain_index(text, len(DATA), len(text)) is None
