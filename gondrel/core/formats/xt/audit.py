"""What is wrong with a file's nodes as sent, before anything is made of them.

A receiving modeller looks at more than a parser does: pointer classes, owners, chains, the fins of
edges and vertices, node ids, regions. Each check is a function from a document to findings.
Source: the rules are those of the published XT format reference on topology and ownership, as far as
they are known; several are from memory.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.xt.body_read import chain_of
from gondrel.core.formats.xt.nodes import Document, Node

__all__ = ["CHECKS", "Flaw", "audit"]


@dataclass(frozen=True, slots=True)
class Flaw:
    """One thing that breaks the format's rules: a stable code, a sentence, the node."""

    code: str
    text: str
    where: str


_SURFACES = ("PLANE", "CYLINDER", "CONE", "SPHERE", "TORUS", "BLENDED_EDGE", "BLEND_BOUND", "OFFSET_SURF",
             "SWEPT_SURF", "SPUN_SURF", "B_SURFACE")  # fmt: skip
_CURVES = ("LINE", "CIRCLE", "ELLIPSE", "INTERSECTION", "TRIMMED_CURVE", "B_CURVE", "SP_CURVE")
_PARTS = ("BODY", "ASSEMBLY")
_VALUES = ("INT_VALUES", "REAL_VALUES", "CHAR_VALUES", "POINT_VALUES", "VECTOR_VALUES", "AXIS_VALUES",
           "TAG_VALUES", "DIRECTION_VALUES", "UNICODE_VALUES")  # fmt: skip
_CLASSES: dict[int, tuple[str, ...]] = {
    1003: (*_SURFACES, *_CURVES, "POINT"),
    1006: _SURFACES,
    1007: ("FACE", *_PARTS, "WORLD"),
    1008: _CURVES,
    1010: ("EDGE", "FIN", *_PARTS, "WORLD"),
    1011: ("VERTEX", *_PARTS, "WORLD"),
    1012: ("POINTER_LIS_BLOCK",),
    1018: _VALUES,
    1019: ("ATTRIBUTE", "FEATURE", "LIST", "MEMBER_OF_FEATURE"),
    1029: ("BODY", "SHELL"),
}
"""Kinds of nodes in each class of pointers; other classes are the number of a node type."""


def _flaw(code: str, node: Node, text: str) -> Flaw:
    return Flaw(code, text, f"{node.kind} {node.index}")


def audit(document: Document) -> tuple[Flaw, ...]:
    """Everything found wrong, check by check. A check that a broken chain stops tells of the chain."""
    found: list[Flaw] = []
    for check in CHECKS:
        try:
            found += check(document)
        except MalformedFile as error:
            found.append(Flaw("xt-chain", error.message, error.where))
        except (KeyError, TypeError, ValueError, IndexError) as error:
            found.append(Flaw("xt-values", f"a node's values make no sense ({error})", ""))
    return tuple(found)


def _of(document: Document, *kinds: str) -> Iterator[Node]:
    return (node for node in document.nodes.values() if node.kind in kinds)


def find_pointers(document: Document) -> Iterator[Flaw]:
    """Pointers that lead to no node or to one of the wrong class."""
    numbers = {n.index: n.type.number for n in document.nodes.values()}
    kinds = {n.index: n.kind for n in document.nodes.values()}
    for node in document.nodes.values():
        for f in node.type.pointers:
            value = node[f.name]
            if not value:
                continue
            for target in value if f.count else (value,):
                if not target:
                    continue
                if target not in kinds:
                    yield _flaw("xt-pointer", node, f"its {f.name} leads to no node ({target})")
                elif not _fits(f.points_to, kinds[target], numbers[target]):
                    yield _flaw("xt-pointer", node, f"its {f.name} leads to a {kinds[target]}")


def _fits(points_to: int, kind: str, number: int) -> bool:
    if points_to in _CLASSES:
        return kind in _CLASSES[points_to]
    return not 0 < points_to < 1000 or number == points_to


_CHAINS = (
    ((*_SURFACES, *_CURVES, "POINT", "FACE", "EDGE", "VERTEX", "REGION", "ATTRIBUTE"), "next", "previous"),
    (("FACE",), "next_front", "previous_front"),
    (("ATTRIBUTE",), "next_of_type", "previous_of_type"),
    (("INSTANCE",), "next_in_part", "prev_in_part"),
    (("INSTANCE",), "next_of_part", "prev_of_part"),
    (("GEOMETRIC_OWNER",), "next", "previous"),
    (("FIN",), "forward", "backward"),
)


def find_chains(document: Document) -> Iterator[Flaw]:
    """Nodes whose successor does not name them as its predecessor, and the other way round."""
    for kinds, forth, back in _CHAINS:
        for node in _of(document, *kinds):
            for there, here in ((forth, back), (back, forth)):
                other = document.at(node[there])
                if other is not None and here in other and other[here] != node.index:
                    yield _flaw("xt-chain", node, f"its {there} does not lead back to it")


def find_owners(document: Document) -> Iterator[Flaw]:
    """Geometry that does not name its face, edge, fin or vertex, and parts that do not name their whole."""
    for kinds, link, back in (
        (("FACE",), "surface", "owner"),
        (("EDGE", "FIN"), "curve", "owner"),
        (("VERTEX",), "point", "owner"),
        (("ASSEMBLY",), "sub_instance", "assembly"),
        (("LOOP",), "fin", "loop"),
        (("REGION",), "shell", "region"),
        (("BODY",), "region", "body"),
    ):
        for node in _of(document, *kinds):
            part = document.at(node[link])
            if part is None or back not in part or part[back] == node.index:
                continue
            shared = kinds[0] in ("FACE", "EDGE", "FIN") and document.at(part[back]) is not None
            if not (shared and document.nodes[part[back]].kind in kinds):
                yield _flaw("xt-owner", node, f"its {link} names another owner ({part[back]})")
    for body in _of(document, "BODY"):
        for head in ("edge", "vertex"):
            for part in chain_of(document, body[head], "next"):
                if part["owner"] != body.index:
                    yield _flaw("xt-owner", part, "it names another body as its owner")


_USES = {
    "INTERSECTION": ("surface",), "TRIMMED_CURVE": ("basis_curve",),
    "SP_CURVE": ("surface", "b_curve", "original"), "BLENDED_EDGE": ("surface", "spine"),
    "BLEND_BOUND": ("blend",), "OFFSET_SURF": ("surface",), "SWEPT_SURF": ("section",),
    "SPUN_SURF": ("profile",),
}  # fmt: skip


def find_geometric_owners(document: Document) -> Iterator[Flaw]:
    """Geometry that is used by other geometry without a record of it, and records of what is not so."""
    told: set[tuple[int, int]] = set()
    for owner in _of(document, "GEOMETRIC_OWNER"):
        used = document.at(owner["shared_geometry"])
        told.add((owner["owner"], owner["shared_geometry"]))
        if used is None or "geometric_owner" not in used:
            yield _flaw("xt-geometric-owner", owner, "it stands for no geometry")
        elif owner.index not in {n.index for n in chain_of(document, used["geometric_owner"], "next")}:
            yield _flaw("xt-geometric-owner", owner, "the geometry it stands for does not list it")
    for node in _of(document, *_USES):
        for name in _USES[node.kind]:
            value = node[name]
            for target in value if isinstance(value, list) else (value,):
                if target and (node.index, target) not in told:
                    yield _flaw("xt-geometric-owner", node, f"its use of {target} is not recorded")


def find_fins(document: Document) -> Iterator[Flaw]:
    """Edges and vertices that do not list their fins, loops that do not join, senses that do not fit."""
    of_edge: defaultdict[int, set[int]] = defaultdict(set)
    at_vertex: defaultdict[int, set[int]] = defaultdict(set)
    for fin in _of(document, "FIN"):
        if fin["edge"]:
            of_edge[fin["edge"]].add(fin.index)
        if fin["vertex"]:
            at_vertex[fin["vertex"]].add(fin.index)
    for edge in _of(document, "EDGE"):
        ring = _ring(document, edge["fin"], "other")
        if ring != of_edge[edge.index]:
            yield _flaw("xt-fins", edge, "its ring of fins is not all the fins that name it")
        first = document.at(edge["fin"])
        if first is None:
            yield _flaw("xt-fins", edge, "it has no fin")
        elif first["sense"] != "+":
            yield _flaw("xt-sense", edge, "its first fin runs against it")
        senses = Counter(document.nodes[i]["sense"] for i in of_edge[edge.index])
        if len(of_edge[edge.index]) == 2 and senses != Counter("+-"):
            yield _flaw("xt-sense", edge, "its two fins have one sense")
    for vertex in _of(document, "VERTEX"):
        listed = {n.index for n in chain_of(document, vertex["fin"], "next_at_vx", "FIN")}
        if listed != at_vertex[vertex.index]:
            yield _flaw("xt-fins", vertex, "its list of fins is not all the fins that end at it")
    for loop in _of(document, "LOOP"):
        yield from _loop_flaws(document, loop)


def _ring(document: Document, first: int, link: str) -> set[int]:
    seen: set[int] = set()
    at = document.at(first)
    while at is not None and at.index not in seen:
        seen.add(at.index)
        at = document.at(at[link])
    return seen


def _loop_flaws(document: Document, loop: Node) -> Iterator[Flaw]:
    for index in _ring(document, loop["fin"], "forward"):
        fin = document.nodes[index]
        if fin["loop"] != loop.index:
            yield _flaw("xt-loop", loop, f"fin {index} of its ring names another loop")
        follower = document.at(fin["forward"])
        if follower is None or not fin["edge"] or not follower["edge"]:
            continue
        others = [i for i in _ring(document, follower["other"], "other") if i != follower.index]
        starts = {
            document.nodes[i]["vertex"] for i in others if document.nodes[i]["sense"] != follower["sense"]
        }
        if starts and fin["vertex"] not in starts:
            yield _flaw("xt-loop", loop, f"fin {index} ends where its follower does not begin")


def find_shells(document: Document) -> Iterator[Flaw]:
    """Regions and shells that do not hang together: the infinite void first, faces in their shells."""
    for body in _of(document, "BODY"):
        regions = list(chain_of(document, body["region"], "next", "REGION"))
        if not regions:
            yield _flaw("xt-region", body, "it has no region")
            continue
        if regions[0]["type"] != "V":
            yield _flaw("xt-region", body, "its first region is not the void around it")
        if body["body_type"] == 1 and not any(r["type"] == "S" for r in regions):
            yield _flaw("xt-region", body, "it is called solid and has no solid region")
        for region in regions:
            for shell in chain_of(document, region["shell"], "next", "SHELL"):
                for head, link, back in (
                    ("face", "next", "shell"),
                    ("front_face", "next_front", "front_shell"),
                ):
                    for face in chain_of(document, shell[head], link, "FACE"):
                        if face[back] != shell.index:
                            yield _flaw("xt-region", face, f"its {back} is not the shell that lists it")
    for face in _of(document, "FACE"):
        if not face["shell"] and not face["front_shell"]:
            yield _flaw("xt-region", face, "it lies in no shell")


_FACE_LISTS = (("face", "next", "shell"), ("front_face", "next_front", "front_shell"))


def find_node_ids(document: Document) -> Iterator[Flaw]:
    """Node ids that come twice in a part, or are above the highest it tells."""
    for part in _of(document, *_PARTS):
        seen: Counter[int] = Counter()
        for node in _nodes_of(document, part):
            if node.get("node_id"):
                seen[node["node_id"]] += 1
        twice = [number for number, count in seen.items() if count > 1]
        if twice:
            yield _flaw("xt-node-id", part, f"node id {twice[0]} is given {seen[twice[0]]} times")
        if seen and max(seen) > part["highest_node_id"]:
            yield _flaw("xt-node-id", part, f"node id {max(seen)} is above the highest it tells")


_LEAVING = frozenset(("part", "owner", "next_of_part", "prev_of_part", "ref_instance", "definition"))


def _nodes_of(document: Document, part: Node) -> Iterator[Node]:
    """The nodes that belong to a part: what it leads to without leaving it."""
    seen = {part.index}
    stack = [part]
    while stack:
        node = stack.pop()
        yield node
        skipped = _LEAVING | {"next", "previous"} if node.kind in _PARTS else _LEAVING
        for f in node.type.pointers:
            if f.name in skipped:
                continue
            value = node[f.name]
            for target in value if f.count else (value,):
                other = document.at(target)
                if other is not None and target not in seen and other.kind not in _PARTS:
                    seen.add(target)
                    stack.append(other)


CHECKS: tuple[Callable[[Document], Iterator[Flaw]], ...] = (
    find_pointers,
    find_chains,
    find_owners,
    find_geometric_owners,
    find_fins,
    find_shells,
    find_node_ids,
)
"""Every check, in the order they are run."""
