"""What records that were read say besides: texts and units among their attributes that no model holds.

Source: ISO 10303-41 (product_definition, product_definition_relationship), -42 (names of representation
items), -44 (assembly_component_usage), -46 (presentation_layer_assignment): the order of attributes.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator

from gondrel.core.formats.step.graph import Graph, says
from gondrel.core.formats.step.records import Records
from gondrel.core.model.census import MOST_PLACES, Remainder, summed

__all__ = ["unheld_texts"]

_NAME = re.compile(rb"\(\s*'((?:[^']|'')+)'")
_TOPOLOGY = (
    ("names of faces", "ADVANCED_FACE"), ("names of faces", "FACE_SURFACE"),
    ("names of edges", "EDGE_CURVE"), ("names of vertices", "VERTEX_POINT"),
)  # fmt: skip


def unheld_texts(records: Records, graph: Graph, named_faces: Collection[int]) -> Iterator[Remainder]:
    """What is said in attributes of records that were read, and stays behind; by kind and attribute.

    Args:
        named_faces: numbers of the faces whose names were read.
    """
    remainders: list[Remainder] = []

    def note(kind: str, attribute: str, where: str) -> None:
        remainders.append(Remainder(kind, attribute, 1, (where,) if where else ()))

    for number in graph.with_units:
        note("units of property values", "measure_with_unit.unit_component", graph.with_units[number])
    yield from summed(remainders, MOST_PLACES)
    for kind, keyword in _TOPOLOGY:
        names = [
            m[1].decode("latin-1")
            for n, m in records.matches(keyword, _NAME)
            if n not in named_faces and _is_name(m[1], n)
        ]
        if names:
            some = tuple(dict.fromkeys(names))[:MOST_PLACES]
            yield Remainder(kind, f"{keyword.lower()}.name", len(names), some)


def _is_name(text: bytes, number: int) -> bool:
    """Whether the name of a topological item is one, not a mark that the writer puts everywhere."""
    return says(text.decode("latin-1")) and text != b"#%d" % number
