"""The text form: what is written comes back, however its lines were broken on the way."""

from __future__ import annotations

import random

import pytest

from gondrel.core.errors import MalformedFile, UnsupportedContent
from gondrel.core.formats.xt.builder import NodeBuilder
from gondrel.core.formats.xt.nodes import Document, Header
from gondrel.core.formats.xt.schema import base_schema
from gondrel.core.formats.xt.text import read_text, write_text
from gondrel.core.formats.xt.write import VERSION
from tests.core.formats.xt.shapes import HEADER

START = b"T51 : TRANSMIT FILE created by modeller version 130000017 SCH_1300000_130060 "


def values(document: Document) -> list:
    return [(n.kind, n.index, n.values(), n.user) for n in document.nodes.values()]


def one_of_each() -> Document:
    """A node of every type, its fields full of awkward values."""
    chance = random.Random(5)
    make = NodeBuilder()
    for kind in base_schema().values():
        fields = {}
        for f in kind.fields:
            single = {
                "d": lambda: chance.choice((0, -7, 2**31 - 1)), "n": lambda: chance.choice((0, -3, 32000)),
                "u": lambda: chance.randrange(256), "w": lambda: chance.randrange(65536),
                "p": lambda: chance.randrange(60000), "c": lambda: chance.choice("+-SV?"),
                "l": lambda: chance.choice("TF"),
                "f": lambda: chance.choice((None, 0.0, -1e-9, 1 / 3, 4e7)),
                "v": lambda: chance.choice((None, (0.0, -1.5, 1e-300))), "h": lambda: (1.0, 2.0, 3.0),
                "i": lambda: chance.choice((None, (0.0, 6.28))),
            }[f.letter]  # fmt: skip
            count = f.count if f.count != 1 else chance.randrange(4)
            fields[f.name] = [single() for _ in range(count)] if f.count else single()
            if f.letter == "c" and f.count:
                fields[f.name] = "".join(fields[f.name])
        make.new(kind.name, **fields)
    return make.document(HEADER)


def test_every_node_type_comes_back_as_written() -> None:
    document = one_of_each()
    assert values(read_text(write_text(document))) == values(document)


def test_lines_are_short_and_broken_before_a_blank() -> None:
    body = write_text(one_of_each()).split(b"\n")
    after_header = body[body.index(next(line for line in body if line.startswith(b"**END"))) + 1 :]
    assert max(len(line) for line in after_header) <= 80


@pytest.mark.parametrize("change", ["crlf", "one line", "narrow", "trailing blanks lost"])
def test_line_ends_do_not_matter(change: str) -> None:
    document = one_of_each()
    data = write_text(document)
    head, _, body = data.partition(b"**END_OF_HEADER")
    mark, _, body = body.partition(b"\n")
    flat = body.replace(b"\n", b"")
    if change == "crlf":
        body = body.replace(b"\n", b"\r\n")
    elif change == "one line":
        body = flat
    elif change == "narrow":
        body = b"\n".join(flat[i : i + 7] for i in range(0, len(flat), 7))
    else:
        words = flat.split(b" ")
        body = b"\n".join(words[i : i + 1][0] for i in range(len(words)))
    read = read_text(head + b"**END_OF_HEADER" + mark + b"\n" + body)
    if change == "trailing blanks lost":
        assert read.remarks, "it is told that blanks were put back"
    assert values(read) == values(document)


def test_escaped_characters_and_runs_of_blanks_are_read() -> None:
    data = START + rb"84 10 1 a\\b\3c\0\nd1 0 "
    assert read_text(data).nodes[1]["values"] == "a\\b   c\0\rd"


def test_user_fields_stand_behind_the_fields() -> None:
    make = NodeBuilder()
    make.new("POINT", node_id=1, pvec=(1.0, 2.0, 3.0))
    make.new("KNOT_SET", knots=[0.5])
    head = Header("text", (("FORMAT", "text"),), VERSION, user_fields=2)
    document = make.document(head)
    document.nodes[1].user = (11, 12)
    read = read_text(write_text(document))
    assert read.nodes[1].user == (11, 12) and read.nodes[2].user == ()
    assert read.nodes[2]["knots"] == [0.5]


@pytest.mark.parametrize(
    ("body", "said"),
    [
        (b"29 1 4 0 0 0 0 0.1 0.2 ", "expected"),
        (b"29 1 4 0 0 0 0 0.1 0.2 0.3 ", "without its end mark"),
        (b"29 1 4 0 0 0 0 ?29 1 4 0 0 0 0 ?1 0 ", "two nodes of index 1"),
        (b"128 900000 1 0 1 1 0 ", "longer than the rest"),
        (b"777 1 0 1 0 ", "node type 777 is not in schema"),
        (b"1 0 ", "no node"),
    ],
)
def test_broken_files_are_refused_with_the_place(body: bytes, said: str) -> None:
    with pytest.raises(MalformedFile, match=said) as caught:
        read_text(START + body)
    assert caught.value.where.startswith("byte ")


def test_an_unknown_schema_is_refused_by_name() -> None:
    data = START.replace(b"SCH_1300000_13006", b"SCH_0900000_09000") + b"29 1 4 0 0 0 0 ?1 0 "
    with pytest.raises(UnsupportedContent, match="SCH_0900000_09000"):
        read_text(data)


def test_embedded_edits_insert_append_and_delete_fields() -> None:
    start = START.replace(b"17 SCH_1300000_130060 ", b"23 SCH_3000000_30000_13006141 0 ")
    script = b"29 7 CCCDCI5 extra0 0 1 dCA3 far18 0 Z"
    # node_id attributes owner (next dropped) previous extra pvec far
    data = start + script + b"1 4 0 0 0 77 0.1 0.2 0.3 9 29 2 5 0 0 0 78 ?8 1 0 "
    read = read_text(data)
    first = read.nodes[1]
    assert [f.name for f in first.type.fields] == [
        "node_id", "attributes_groups", "owner", "previous", "extra", "pvec", "far",
    ]  # fmt: skip
    assert first["extra"] == 77 and first["pvec"] == (0.1, 0.2, 0.3) and first["far"] == 9
    assert read.nodes[2]["extra"] == 78 and read.nodes[2]["pvec"] is None
    assert list(first.pointers()) == [9]


def test_a_type_of_its_own_is_learnt_and_kept() -> None:
    start = START.replace(b"17 SCH_1300000_130060 ", b"23 SCH_3000000_30000_13006210 0 ")
    script = b"210 2 5 THING6 thingy5 count0 0 1 d4 rest0 1 1 f"
    read = read_text(start + script + b"3 1 42 0.5 ?1.5 29 255 2 4 0 0 0 0 ?1 0 ")
    assert read.nodes[1].kind == "THING" and read.nodes[1]["count"] == 42
    assert read.nodes[1]["rest"] == [0.5, None, 1.5]
    assert read.nodes[2].kind == "POINT"
