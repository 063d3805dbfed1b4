"""What records that were read say besides: texts and units among their attributes that no model holds.

Source: ISO 10303-41 (product_definition, product_definition_relationship), -42 (names of representation
items), -44 (assembly_component_usage), -46 (presentation_layer_assignment): the order of attributes.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from gondrel.core.formats.step.graph import Graph
from gondrel.core.formats.step.records import Record, Records
from gondrel.core.formats.step.tokens import Reference
from gondrel.core.model.census import Remainder

__all__ = ["said_besides"]

_NAME = re.compile(rb"\(\s*'((?:[^']|'')+)'")
_EMPTY = frozenset(("", "NONE", "NULL", "/NULL", "UNKNOWN", "$"))
_USUAL_VIEWS = frozenset(("DESIGN", "PART DEFINITION", "PHYSICALLY", "1", "0"))
_TOPOLOGY = (
    ("names of faces", "ADVANCED_FACE"), ("names of faces", "FACE_SURFACE"),
    ("names of edges", "EDGE_CURVE"), ("names of vertices", "VERTEX_POINT"),
)  # fmt: skip
_MOST_PLACES = 5


def said_besides(
    records: Records, graph: Graph, products: Iterable[int], uses: Iterable[int], layers: Iterable[int]
) -> Iterator[Remainder]:
    """What is said in attributes of records that were read, and stays behind; by kind and attribute.

    Args:
        products, uses, layers: numbers of the product definitions, usages and layer assignments read.
    """
    found: dict[tuple[str, str], list[str]] = {}

    def note(kind: str, attribute: str, where: str) -> None:
        found.setdefault((kind, attribute), []).append(where)

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
        formation = next((records.get(p.number) for p in parameters if isinstance(p, Reference)), None)
        if formation is not None and _says(formation.text(1)) and formation.text(1) != facts.description:
            note("descriptions of revisions", "product_definition_formation.description", facts.name)
    for number in uses:
        use, said = records.get(number), graph.uses.get(number)
        if use is None or said is None:
            continue
        _use(use, said.name, note)
        if said.quantity is not None:
            note("quantities of components", "quantified_assembly_component_usage.quantity", said.name)
    for number in layers:
        layer = records.get(number)
        usual = (layer.text(0), f"layer {layer.text(0)}") if layer is not None else ()
        if (
            layer is not None
            and _says(layer.text(1))
            and layer.text(1).lower() not in map(str.lower, usual)
        ):
            note("descriptions of layers", "presentation_layer_assignment.description", layer.text(0))
    for number in graph.with_units:
        note("units of property values", "measure_with_unit.unit_component", graph.with_units[number])
    for (kind, attribute), where in found.items():
        places = tuple(dict.fromkeys(w for w in where if w))
        yield Remainder(kind, attribute, len(where), places[:_MOST_PLACES])
    for kind, keyword in _TOPOLOGY:
        names = [m[1].decode("latin-1") for n, m in records.matches(keyword, _NAME) if _is_name(m[1], n)]
        if names:
            some = tuple(dict.fromkeys(names))[:_MOST_PLACES]
            yield Remainder(kind, f"{keyword.lower()}.name", len(names), some)


def _use(use: Record, name: str, note: object) -> None:
    assert callable(note)
    parameters = use.parameters
    if not use.keyword:
        own = use.parts.get("ASSEMBLY_COMPONENT_USAGE", ())
        parameters = (*use.parts.get("PRODUCT_DEFINITION_RELATIONSHIP", ()), *own)
    texts = [p if isinstance(p, str) else "" for p in parameters] + [""] * 6
    if _says(texts[2]) and texts[2] != name:
        note("descriptions of components", "product_definition_relationship.description", name)
    if _says(texts[5]) and texts[5] != name:
        note("reference designators", "assembly_component_usage.reference_designator", name)


def _says(text: str) -> bool:
    return text.strip().upper() not in _EMPTY


def _is_name(text: bytes, number: int) -> bool:
    """Whether the name of a topological item is one, not a mark that the writer puts everywhere."""
    return _says(text.decode("latin-1")) and text != b"#%d" % number
