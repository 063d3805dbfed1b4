"""What is wrong with a file's nodes as sent, before anything is made of them.

A receiving modeller looks at more than a parser does: pointer classes, owners, chains, the fins of
edges and vertices, node ids, regions. Each check is a function from a view of a document to findings.
Source: the rules are those of the published XT format reference on topology and ownership, as far as
they are known; several are from memory.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterator

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.xt.body_read import chain_of
from gondrel.core.formats.xt.nodes import Document, Node
from gondrel.core.model.provenance import Note

__all__ = ["CHECKS", "audit"]


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


def _flaw(code: str, node: Node, text: str) -> Note:
    return Note(code, text, f"{node.kind} {node.index}")


class View:
    """A document with its nodes by kind at hand."""

    def __init__(self, document: Document) -> None:
        self.document = document
        self.nodes = document.nodes
        self.at = document.nodes.get
        self._by_kind: defaultdict[str, list[Node]] = defaultdict(list)
        for node in document.nodes.values():
            self._by_kind[node.kind].append(node)

    def of(self, *kinds: str) -> Iterator[Node]:
        """The nodes of some kinds."""
        for kind in kinds:
            yield from self._by_kind[kind]


def audit(document: Document) -> tuple[Note, ...]:
    """Everything found wrong, check by check. A check that a broken chain stops tells of the chain."""
    notes: list[Note] = []
    view = View(document)
    for check in CHECKS:
        try:
            notes += check(view)
        except MalformedFile as error:
            notes.append(Note("chain-broken", error.message, error.where))
        except (KeyError, TypeError, ValueError, IndexError) as error:
            notes.append(Note("values-senseless", f"a node's values make no sense ({error})", ""))
    return tuple(notes)


def find_pointers(view: View) -> Iterator[Note]:
    """Pointers that lead to no node or to one of the wrong class."""
    for node in view.nodes.values():
        for f in node.type.pointers:
            value = node[f.name]
            if not value:
                continue
            for target in value if f.count else (value,):
                if not target:
                    continue
                other = view.at(target)
                if other is None:
                    yield _flaw("pointer-astray", node, f"its {f.name} leads to no node ({target})")
                elif not _fits(f.points_to, other):
                    yield _flaw("pointer-astray", node, f"its {f.name} leads to a {other.kind}")


def _fits(points_to: int, node: Node) -> bool:
    if points_to in _CLASSES:
        return node.kind in _CLASSES[points_to]
    return not 0 < points_to < 1000 or node.type.number == points_to


_CHAINS = (
    ((*_SURFACES, *_CURVES, "POINT", "FACE", "EDGE", "VERTEX", "REGION", "ATTRIBUTE"), "next", "previous"),
    (("FACE",), "next_front", "previous_front"),
    (("ATTRIBUTE",), "next_of_type", "previous_of_type"),
    (("INSTANCE",), "next_in_part", "prev_in_part"),
    (("INSTANCE",), "next_of_part", "prev_of_part"),
    (("GEOMETRIC_OWNER",), "next", "previous"),
    (("FIN",), "forward", "backward"),
)


def find_chains(view: View) -> Iterator[Note]:
    """Nodes whose successor does not name them as its predecessor, and the other way round."""
    for kinds, forth, back in _CHAINS:
        for node in view.of(*kinds):
            for there, here in ((forth, back), (back, forth)):
                other = view.at(node[there])
                if other is not None and here in other and other[here] != node.index:
                    yield _flaw("chain-broken", node, f"its {there} does not lead back to it")


def find_owners(view: View) -> Iterator[Note]:
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
        for node in view.of(*kinds):
            part = view.at(node[link])
            if part is None or back not in part or part[back] == node.index:
                continue
            shared = kinds[0] in ("FACE", "EDGE", "FIN") and view.at(part[back]) is not None
            if not (shared and view.nodes[part[back]].kind in kinds):
                yield _flaw("owner-wrong", node, f"its {link} names another owner ({part[back]})")
    for body in view.of("BODY"):
        for head in ("edge", "vertex"):
            for part in chain_of(view.document, body[head], "next"):
                if part["owner"] != body.index:
                    yield _flaw("owner-wrong", part, "it names another body as its owner")


_USES = {
    "INTERSECTION": ("surface",), "TRIMMED_CURVE": ("basis_curve",),
    "SP_CURVE": ("surface", "b_curve", "original"), "BLENDED_EDGE": ("surface", "spine"),
    "BLEND_BOUND": ("blend",), "OFFSET_SURF": ("surface",), "SWEPT_SURF": ("section",),
    "SPUN_SURF": ("profile",),
}  # fmt: skip


def find_geometric_owners(view: View) -> Iterator[Note]:
    """Geometry that is used by other geometry without a record of it, and records of what is not so."""
    reported: set[tuple[int, int]] = set()
    for owner in view.of("GEOMETRIC_OWNER"):
        used = view.at(owner["shared_geometry"])
        reported.add((owner["owner"], owner["shared_geometry"]))
        if used is None or "geometric_owner" not in used:
            yield _flaw("use-not-recorded", owner, "it stands for no geometry")
        elif owner.index not in {n.index for n in chain_of(view.document, used["geometric_owner"], "next")}:
            yield _flaw("use-not-recorded", owner, "the geometry it stands for does not list it")
    for node in view.of(*_USES):
        for name in _USES[node.kind]:
            value = node[name]
            for target in value if isinstance(value, list) else (value,):
                if target and (node.index, target) not in reported:
                    yield _flaw("use-not-recorded", node, f"its use of {target} is not recorded")


def find_fins(view: View) -> Iterator[Note]:
    """Edges and vertices that do not list their fins, loops that do not join, senses that do not fit."""
    of_edge: defaultdict[int, set[int]] = defaultdict(set)
    at_vertex: defaultdict[int, set[int]] = defaultdict(set)
    for fin in view.of("FIN"):
        if fin["edge"]:
            of_edge[fin["edge"]].add(fin.index)
        if fin["vertex"]:
            at_vertex[fin["vertex"]].add(fin.index)
    for edge in view.of("EDGE"):
        ring = _ring(view, edge["fin"], "other")
        if ring != of_edge[edge.index]:
            yield _flaw("fins-not-listed", edge, "its ring of fins is not all the fins that name it")
        first = view.at(edge["fin"])
        if first is None:
            yield _flaw("fins-not-listed", edge, "it has no fin")
        elif first["sense"] != "+":
            yield _flaw("sense-wrong", edge, "its first fin runs against it")
        senses = Counter(view.nodes[i]["sense"] for i in of_edge[edge.index])
        if len(of_edge[edge.index]) == 2 and senses != Counter("+-"):
            yield _flaw("sense-wrong", edge, "its two fins have one sense")
    for vertex in view.of("VERTEX"):
        listed = {n.index for n in chain_of(view.document, vertex["fin"], "next_at_vx", "FIN")}
        if listed != at_vertex[vertex.index]:
            yield _flaw("fins-not-listed", vertex, "its list of fins is not all the fins that end at it")
    for loop in view.of("LOOP"):
        yield from _loop_flaws(view, loop)


def _ring(view: View, first: int, link: str) -> set[int]:
    seen: set[int] = set()
    at = view.at(first)
    while at is not None and at.index not in seen:
        seen.add(at.index)
        at = view.at(at[link])
    return seen


def _loop_flaws(view: View, loop: Node) -> Iterator[Note]:
    for index in _ring(view, loop["fin"], "forward"):
        fin = view.nodes[index]
        if fin["loop"] != loop.index:
            yield _flaw("loop-not-joined", loop, f"fin {index} of its ring names another loop")
        follower = view.at(fin["forward"])
        if follower is None or not fin["edge"] or not follower["edge"]:
            continue
        others = [i for i in _ring(view, follower["other"], "other") if i != follower.index]
        starts = {view.nodes[i]["vertex"] for i in others if view.nodes[i]["sense"] != follower["sense"]}
        if starts and fin["vertex"] not in starts:
            yield _flaw("loop-not-joined", loop, f"fin {index} ends where its follower does not begin")


def find_shells(view: View) -> Iterator[Note]:
    """Regions and shells that do not hang together: the infinite void first, faces in their shells."""
    for body in view.of("BODY"):
        regions = list(chain_of(view.document, body["region"], "next", "REGION"))
        if not regions:
            yield _flaw("region-wrong", body, "it has no region")
            continue
        if regions[0]["type"] != "V":
            yield _flaw("region-wrong", body, "its first region is not the void around it")
        if body["body_type"] == 1 and not any(r["type"] == "S" for r in regions):
            yield _flaw("region-wrong", body, "it is called solid and has no solid region")
        for region in regions:
            for shell in chain_of(view.document, region["shell"], "next", "SHELL"):
                for head, link, back in (
                    ("face", "next", "shell"),
                    ("front_face", "next_front", "front_shell"),
                ):
                    for face in chain_of(view.document, shell[head], link, "FACE"):
                        if face[back] != shell.index:
                            yield _flaw("region-wrong", face, f"its {back} is not the shell that lists it")
    for face in view.of("FACE"):
        if not face["shell"] and not face["front_shell"]:
            yield _flaw("region-wrong", face, "it lies in no shell")


_FACE_LISTS = (("face", "next", "shell"), ("front_face", "next_front", "front_shell"))


def find_node_ids(view: View) -> Iterator[Note]:
    """Node ids that come twice in a part, or are above the highest it tells."""
    for part in view.of(*_PARTS):
        seen: Counter[int] = Counter()
        for node in _nodes_of(view, part):
            if node.get("node_id"):
                seen[node["node_id"]] += 1
        twice = [number for number, count in seen.items() if count > 1]
        if twice:
            yield _flaw("node-id-wrong", part, f"node id {twice[0]} is given {seen[twice[0]]} times")
        if seen and max(seen) > part["highest_node_id"]:
            yield _flaw("node-id-wrong", part, f"node id {max(seen)} is above the highest it tells")


_LEAVING = frozenset(("part", "owner", "next_of_part", "prev_of_part", "ref_instance", "definition"))


def _nodes_of(view: View, part: Node) -> Iterator[Node]:
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
                other = view.at(target)
                if other is not None and target not in seen and other.kind not in _PARTS:
                    seen.add(target)
                    stack.append(other)


CHECKS: tuple[Callable[[View], Iterator[Note]], ...] = (
    find_pointers,
    find_chains,
    find_owners,
    find_geometric_owners,
    find_fins,
    find_shells,
    find_node_ids,
)
"""Every check, in the order they are run."""
