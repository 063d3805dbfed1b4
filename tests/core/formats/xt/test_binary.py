"""The neutral binary form."""

from __future__ import annotations

import struct

import parasolid_kit as kit
import pytest

from gondrel.core.errors import MalformedFile, UnsupportedContent
from gondrel.core.formats.xt.binary import read_binary, write_binary
from gondrel.core.formats.xt.builder import NodeBuilder
from gondrel.core.formats.xt.nodes import Document
from gondrel.core.formats.xt.text import write_text
from gondrel.core.kernel.modelling import build
from tests.core.formats.xt import referee
from tests.core.formats.xt.shapes import BINARY, HEADER, document_of
from tests.core.formats.xt.test_text import one_of_each, values


def binary(document: Document) -> bytes:
    return write_binary(Document(BINARY, document.schema, document.nodes))


def test_every_node_type_comes_back_as_written() -> None:
    document = one_of_each()
    assert values(read_binary(binary(document))) == values(document)


def test_the_referee_finds_text_and_binary_equal() -> None:
    document = document_of(build.torus(10, 3))
    text, packed = referee.parse(write_text(document)), referee.parse(binary(document))
    found = kit.compare_documents(text, packed)
    assert found.equivalent, found


def test_large_indices_are_packed_in_two_shorts() -> None:
    make = NodeBuilder()
    for _ in range(40_000):
        make.new("KNOT_SET", knots=[0.5])
    make.new("POINTER_LIS_BLOCK", n_entries=3, entries=[32766, 32767, 40_000])
    read = read_binary(binary(make.document(HEADER)))
    assert read.nodes[40_001]["entries"] == [32766, 32767, 40_000]
    assert list(read.nodes) == list(range(1, 40_002))


def test_edits_in_binary() -> None:
    version, key = b": TRANSMIT FILE", b"SCH_3000000_30000_13006"
    data = b"PS\0\0" + struct.pack(">h", len(version)) + version + struct.pack(">i", len(key)) + key
    data += struct.pack(">hi", 141, 0)
    data += struct.pack(">hB", 128, 2) + b"I" + b"\4more" + struct.pack(">hh", 0, 1) + b"\1d" + b"CZ"
    data += struct.pack(">ihidd", 2, 2, 77, 0.25, 0.5)
    data += struct.pack(">hh", 1, 1)
    node = read_binary(data).nodes[1]
    assert node["more"] == 77 and node["knots"] == [0.25, 0.5]


def test_other_binary_forms_are_refused_by_name() -> None:
    data = binary(one_of_each()).replace(b"PS\0\0", b"PS\0\1", 1)
    with pytest.raises(UnsupportedContent, match="machine-dependent"):
        read_binary(data)


@pytest.mark.parametrize("share", [0.1, 0.5, 0.9, 0.999])
def test_cut_off_files_are_refused(share: float) -> None:
    data = binary(one_of_each())
    with pytest.raises(MalformedFile):
        read_binary(data[: int(len(data) * share)])
