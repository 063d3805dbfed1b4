"""The census of an XT file: which nodes were read, which only serve those, and what remains."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from gondrel.core.formats.xt import attributes as named
from gondrel.core.formats.xt.attributes import AttributeReader
from gondrel.core.formats.xt.nodes import Document, Node
from gondrel.core.model.census import MOST_PLACES, Census, Remainder, summed

__all__ = ["census_of"]

_PARTS = frozenset(("BODY", "ASSEMBLY", "INSTANCE"))
_THINGS = _PARTS | {"ATTRIBUTE", "FEATURE", "MEMBER_OF_FEATURE", "LIST", "KEY"}
_TOPOLOGY = frozenset(("SHELL", "FACE", "LOOP", "EDGE", "FIN", "VERTEX", "REGION", "GEOMETRIC_OWNER"))
_ASIDE = frozenset((
    "attributes_groups", "attribute_chains", "owner", "list", "key", "ref_instance", "part", "assembly",
    "next_in_part", "prev_in_part", "next_of_part", "prev_of_part", "sub_instance",
))  # fmt: skip
"""Fields that do not lead to what a node is made of."""
_HEADS = frozenset(("surface", "curve", "point"))
"""Fields of a part that lead to all its geometry, that of no face or edge included."""

_COLOURS = frozenset((named.COLOUR, named.TRANSPARENCY))
_NOT_OF_FACE = frozenset((
    named.IDENTITY, named.DENSITY, named.MATERIAL, named.BODY, named.INSIDE, named.BODY_MORE,
    named.MODEL_MORE,
))  # fmt: skip
_NOT_OF_ASSEMBLY = _COLOURS | {named.LAYER, named.LAYER_NAME, named.BODY}
_NOT_OF_INSTANCE = frozenset((
    named.IDENTITY, named.DENSITY, named.MATERIAL, named.BODY, named.INSIDE,
    named.BODY_MORE, named.MODEL_MORE,
))  # fmt: skip

_KINDS = {
    "FEATURE": "groups", "MEMBER_OF_FEATURE": "groups", "KEY": "keys", "LIST": "lists",
    "POINTER_LIS_BLOCK": "lists", "BODY": "bodies that were not made", "INSTANCE": "components not made",
    "ASSEMBLY": "assemblies that nothing uses", "TRANSFORM": "transforms that place nothing",
}  # fmt: skip
_GEOMETRY = "construction geometry"
_OWNERS = {
    "FACE": "attributes of faces", "EDGE": "attributes of edges", "VERTEX": "attributes of vertices",
    "BODY": "attributes of bodies", "ASSEMBLY": "attributes of assemblies",
    "INSTANCE": "attributes of components",
}  # fmt: skip


def census_of(document: Document, made: Mapping[int, str]) -> Census:
    """Account for every node of a file.

    Args:
        made: the bodies, assemblies and instances that are in the model, with what they are called there.
    """
    nodes = document.nodes
    reader = AttributeReader(document)
    carried = set(made)
    carried |= {
        n.index for n in nodes.values() if n.kind == "ATTRIBUTE" and _is_read(document, reader, n, made)
    }
    serving = _reached(document, carried) - carried
    serving |= {document.root.index} - carried
    for node in nodes.values():
        if node.kind == "ATTRIB_DEF":
            serving |= _reached(document, {node.index})
        elif node.kind in ("LIST", "WORLD"):
            serving |= _listing(document, node, carried)
    rest = [n for n in nodes.values() if n.index not in carried and n.index not in serving]
    return Census(
        len(nodes), len(carried), len(serving), tuple(_remainder(document, reader, rest, made)), "nodes"
    )


def _is_read(document: Document, reader: AttributeReader, node: Node, made: Mapping[int, str]) -> bool:
    """Whether what an attribute says is in the model."""
    owner = document.at(node["owner"])
    identifier = reader.identifier(node)
    if owner is None or not identifier:
        return False
    if owner.kind == "FACE":
        body = _body_of(document, owner)
        return identifier not in _NOT_OF_FACE and body is not None and body in made
    if owner.index not in made:
        return False
    if owner.kind == "ASSEMBLY":
        return identifier not in _NOT_OF_ASSEMBLY
    if owner.kind == "INSTANCE":
        return identifier not in _NOT_OF_INSTANCE
    return owner.kind == "BODY"


def _body_of(document: Document, face: Node) -> int | None:
    """The index of the body of a face."""
    shell = document.at(face.get("shell") or 0) or document.at(face.get("front_shell") or 0)
    region = document.at(shell.get("region") or 0) if shell is not None else None
    for node in (shell, region):
        if node is not None and node.get("body"):
            return int(node["body"])
    return None


def _below(node: Node) -> Iterable[int]:
    """Indices of what a node is made of."""
    for field in node.type.pointers:
        name = field.name
        if name in _ASIDE or name.startswith("previous") or (node.kind in _PARTS and name in _HEADS):
            continue
        if name == "next" and node.kind not in _TOPOLOGY:
            continue
        if node.kind == "ATTRIBUTE" and name not in ("definition", "fields"):
            continue
        value = node[name]
        yield from (v for v in (value if field.count else (value,)) if v)


def _reached(document: Document, seeds: Iterable[int]) -> set[int]:
    """Everything that some nodes are made of, themselves included."""
    seen = set(seeds)
    front = list(seen)
    while front:
        node = document.at(front.pop())
        if node is None:
            continue
        for index in _below(node):
            below = document.at(index)
            if below is not None and index not in seen and below.kind not in _THINGS:
                seen.add(index)
                front.append(index)
    return seen


def _listing(document: Document, node: Node, carried: set[int]) -> set[int]:
    """A list and its blocks where it only lists what was read, and a list of the whole file."""
    if node.kind == "WORLD":
        return {node.index}
    blocks, at = [], document.at(node["list_block"])
    while at is not None and at.index not in blocks:
        blocks.append(at.index)
        at = document.at(at.get("next_block") or 0)
    listed = [e for b in blocks for e in document.nodes[b].get("entries", ()) if e]
    return {node.index, *blocks} if listed and all(e in carried for e in listed) else set()


def _remainder(
    document: Document, reader: AttributeReader, rest: list[Node], made: Mapping[int, str]
) -> list[Remainder]:
    """What remains, by kind and type; the values of an attribute are of its kind."""
    left = {node.index for node in rest}
    kind_of: dict[int, str] = {}
    for node in sorted(rest, key=lambda n: n.kind != "ATTRIBUTE"):
        if node.index in kind_of:
            continue
        kind = _kind(document, node)
        for index in _reached(document, {node.index}) & left:
            kind_of.setdefault(index, kind)
    remainders = []
    for node in rest:
        type_ = reader.identifier(node) if node.kind == "ATTRIBUTE" else ""
        place = _place(document, node, made)
        remainders.append(Remainder(kind_of[node.index], type_ or node.kind, 1, (place,) if place else ()))
    return sorted(summed(remainders, MOST_PLACES), key=lambda one: one.aspect)


def _kind(document: Document, node: Node) -> str:
    if node.kind == "ATTRIBUTE":
        owner = document.at(node["owner"])
        return _OWNERS.get(owner.kind, "attributes of other nodes") if owner is not None else "attributes"
    if node.kind in _KINDS:
        return _KINDS[node.kind]
    if "geometric_owner" in node.type.positions or node.kind == "POINT":
        return _GEOMETRY
    return "nodes of other kinds" if node.kind not in _TOPOLOGY else "bodies that were not made"


def _place(document: Document, node: Node, made: Mapping[int, str]) -> str:
    owner = document.at(node.get("owner") or 0)
    if owner is None:
        return ""
    if owner.kind == "FACE":
        body = _body_of(document, owner)
        return f"a face of {made[body]}" if body is not None and body in made else ""
    return made.get(owner.index, "")
