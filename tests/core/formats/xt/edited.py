"""Documents changed node by node, for what our writer does not produce."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRepCheck import BRepCheck_Analyzer

from gondrel.core.formats.xt.builder import NodeBuilder
from gondrel.core.formats.xt.nodes import Document, Node
from gondrel.core.formats.xt.text import write_text
from gondrel.core.kernel.measure.mass import measure
from tests.core.formats.xt.shapes import made_from


def metres(point: Any) -> tuple[float, ...]:
    """A point in millimetres as the format has it."""
    return tuple(value * 1e-3 for value in point)


def set_values(node: Node, **values: Any) -> None:
    for name, value in values.items():
        node._raw[node.type.positions[name]] = value


def add(document: Document, kind: str, **values: Any) -> int:
    """A node with the next free index, its values as they stand in a file; what is not said is null."""
    index = max(document.nodes) + 1
    made = document.nodes[index] = _node(document, kind, index, values)
    if "node_id" in made:
        root = document.root
        set_values(root, highest_node_id=root["highest_node_id"] + 1)
        set_values(document.nodes[index], node_id=root["highest_node_id"])
    return index


def replace_node(document: Document, old: Node, kind: str, **values: Any) -> Node:
    """A node of another kind in the place of one: same index, chains, owner and node id."""
    kept = {n: old[n] for n in ("node_id", "attributes_groups", "owner", "next", "previous", "sense")}
    values = {**kept, "geometric_owner": old["geometric_owner"], **values}
    document.nodes[old.index] = _node(document, kind, old.index, values)
    return document.nodes[old.index]


def _node(document: Document, kind: str, index: int, values: dict[str, Any]) -> Node:
    make = NodeBuilder()
    make.new(kind)
    made = next(iter(make.document(document.header).nodes.values()))
    node = Node(made.type, index, made.values())
    set_values(node, **values)
    return node


def use(document: Document, user: int, used: int) -> None:
    """Record that one piece of geometry uses another."""
    first = document.nodes[used]["geometric_owner"]
    index = add(document, "GEOMETRIC_OWNER", owner=user, shared_geometry=used, next=first)
    if first:
        set_values(document.nodes[first], previous=index)
    set_values(document.nodes[used], geometric_owner=index)


def of(document: Document, kind: str) -> list[Node]:
    return [n for n in document.nodes.values() if n.kind == kind]


def chart(document: Document, points: np.ndarray) -> int:
    """A chart through points in millimetres."""
    hvec = [metres(p) for p in points.tolist()]
    return add(
        document, "CHART", base_parameter=0.0, base_scale=1.0, chart_count=len(hvec), chordal_error=1e-5,
        angular_error=0.1, parameter_error=[None, None], hvec=hvec,
    )  # fmt: skip


def limit(document: Document, kind: str, point: Any) -> int:
    return add(document, "LIMIT", type=kind, hvec=[metres(point)])


def figures(document: Document):
    """Measures of the one valid solid that is made of a document, and what is told of making it."""
    making = made_from(write_text(document))
    (body,) = making.bodies
    assert body.kind.value == "solid"
    assert BRepCheck_Analyzer(body.shape).IsValid()
    return measure(body.shape), making.remarks
