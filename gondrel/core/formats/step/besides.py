"""What records that were read say besides: texts and units among their attributes that no model holds.

Source: ISO 10303-41 (product_definition, product_definition_relationship), -42 (names of representation
items), -44 (assembly_component_usage), -46 (presentation_layer_assignment): the order of attributes.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from gondrel.core.formats.step.graph import Graph, formation_of, relation_of
from gondrel.core.formats.step.records import Records
from gondrel.core.model.census import MOST_PLACES, Remainder, summed

__all__ = ["said_besides"]

_NAME = re.compile(rb"\(\s*'((?:[^']|'')+)'")
_EMPTY = frozenset(("", "NONE", "NULL", "/NULL", "UNKNOWN", "$"))
_USUAL_VIEWS = frozenset(("DESIGN", "PART DEFINITION", "PHYSICALLY", "1", "0"))
_TOPOLOGY = (
    ("names of faces", "ADVANCED_FACE"), ("names of faces", "FACE_SURFACE"),
    ("names of edges", "EDGE_CURVE"), ("names of vertices", "VERTEX_POINT"),
)  # fmt: skip


def said_besides(
    records: Records, graph: Graph, products: Iterable[int], uses: Iterable[int], layers: Iterable[int]
) -> Iterator[Remainder]:
    """What is said in attributes of records that were read, and stays behind; by kind and attribute.

    Args:
        products, uses, layers: numbers of the product definitions, usages and layer assignments read.
    """
    found: list[Remainder] = []

    def note(kind: str, attribute: str, where: str) -> None:
        found.append(Remainder(kind, attribute, 1, (where,) if where else ()))

    for number in products:
        record, facts = records.get(number), graph.products.get(number)
        if record is None or facts is None:
            continue
        parameters = next(iter(record.parts.values()))
        texts = [p if isinstance(p, str) else "" for p in parameters[:2]]
        if _says(texts[0]) and texts[0].upper() not in _USUAL_VIEWS:
            note("ids of definitions", "product_definition.id", facts.name)
        if len(texts) > 1 and _says(texts[1]):
            note("descriptions of definitions", "product_definition.description", facts.name)
        formation = formation_of(records, record)
        if formation is not None and _says(formation.text(1)) and formation.text(1) != facts.description:
            note("descriptions of revisions", "product_definition_formation.description", facts.name)
    for number in uses:
        use, said = records.get(number), graph.uses.get(number)
        if use is None or said is None:
            continue
        _, _, text, _, _, designator = relation_of(use)
        if _says(text) and text != said.name:
            note("descriptions of components", "product_definition_relationship.description", said.name)
        if _says(designator) and designator != said.name:
            note("reference designators", "assembly_component_usage.reference_designator", said.name)
        if said.quantity is not None:
            note("quantities of components", "quantified_assembly_component_usage.quantity", said.name)
    for number in layers:
        layer = records.get(number)
        name, text = (layer.text(0), layer.text(1)) if layer is not None else ("", "")
        if _says(text) and text.lower() not in (name.lower(), f"layer {name}".lower()):
            note("descriptions of layers", "presentation_layer_assignment.description", name)
    for number in graph.with_units:
        note("units of property values", "measure_with_unit.unit_component", graph.with_units[number])
    yield from summed(found, MOST_PLACES)
    for kind, keyword in _TOPOLOGY:
        names = [m[1].decode("latin-1") for n, m in records.matches(keyword, _NAME) if _is_name(m[1], n)]
        if names:
            some = tuple(dict.fromkeys(names))[:MOST_PLACES]
            yield Remainder(kind, f"{keyword.lower()}.name", len(names), some)


def _says(text: str) -> bool:
    return text.strip().upper() not in _EMPTY


def _is_name(text: bytes, number: int) -> bool:
    """Whether the name of a topological item is one, not a mark that the writer puts everywhere."""
    return _says(text.decode("latin-1")) and text != b"#%d" % number
