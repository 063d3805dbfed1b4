"""The nodes of one body as a boundary."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from gondrel.core.errors import MalformedFile
from gondrel.core.formats.xt.geometry_read import GeometryReader
from gondrel.core.formats.xt.nodes import Document, Node
from gondrel.core.model.boundary import Boundary, Edge, Face, Fin, Loop, Vertex, connected

__all__ = ["ReadBody", "chain_of", "read_body"]

_KINDS = {1: "solid", 2: "wire", 3: "sheet", 6: "general"}


@dataclass(slots=True)
class ReadBody:
    """A boundary with the node index of each of its faces and edges.

    Args:
        area, volume: by the nodes, mm2 and mm3, None where they do not say; agrees: whether every face was
            made where they say.
    """

    boundary: Boundary
    faces: list[int] = field(default_factory=list)
    edges: list[int] = field(default_factory=list)
    area: float | None = None
    volume: float | None = None
    agrees: bool = True


def chain_of(document: Document, first: int, link: str, kind: str = "") -> Iterator[Node]:
    """Nodes linked one after another.

    Raises:
        MalformedFile: when the chain comes back into itself or leads to a node of another type.
    """
    seen: set[int] = set()
    at = first
    while at:
        node = document.at(at)
        if node is None:
            raise MalformedFile(f"a chain by {link} leads to node {at}, which is not there")
        if at in seen:
            raise MalformedFile(f"a chain by {link} does not end", where=f"{node.kind} {at}")
        if kind and node.kind != kind:
            raise MalformedFile(f"a chain of {kind} leads to a {node.kind}", where=f"{node.kind} {at}")
        seen.add(at)
        yield node
        at = node.get(link, 0)


def read_body(document: Document, body: Node, geometry: GeometryReader) -> ReadBody:
    """The boundary of a BODY node.

    Raises:
        MalformedFile: when its nodes make no sense. UnsupportedContent: for geometry not read.
    """
    return _Reader(document, body, geometry).read()


class _Reader:
    def __init__(self, document: Document, body: Node, geometry: GeometryReader) -> None:
        self.document = document
        self.body = body
        self.geometry = geometry
        self.face_numbers: dict[int, int] = {}
        self.face_nodes: list[int] = []
        self.edge_numbers: dict[int, int] = {}
        self.vertex_numbers: dict[int, int] = {}
        self.faces: list[Face] = []
        self.edges: list[Edge] = []
        self.vertices: list[Vertex] = []

    def _at(self, index: int, kind: str, owner: Node) -> Node:
        node = self.document.at(index)
        if node is None or node.kind != kind:
            what = node.kind if node is not None else "nothing"
            raise self.geometry.fail(owner, f"a {kind} was expected at {index}, {what} is there")
        return node

    def read(self) -> ReadBody:
        regions: list[tuple[tuple[int, ...], ...]] = []
        loose: list[tuple[int, ...]] = []
        points: list[int] = []
        has_regions = False
        for region in chain_of(self.document, self.body["region"], "next", "REGION"):
            has_regions = True
            shells = []
            for shell in chain_of(self.document, region["shell"], "next", "SHELL"):
                if shell["vertex"]:
                    points.append(self._vertex(self._at(shell["vertex"], "VERTEX", shell)))
                back, front = self._shell_faces(shell)
                if region["type"] == "S":
                    if back or front:
                        shells.append((*back, *(-1 - n for n in front)))
                else:
                    both = tuple(n for n in back if self._is_loose(n))
                    if both:
                        loose.append(both)
            if shells:
                regions.append(tuple(shells))
        if not has_regions:
            raise self.geometry.fail(self.body, "it has no region")
        wires = self._wires()
        kind = _KINDS.get(self.body["body_type"], "general")
        if kind == "wire" and points and not wires:
            kind = "point"
        boundary = Boundary(
            kind, tuple(self.vertices), tuple(self.edges), tuple(self.faces), tuple(regions), tuple(loose),
            wires, tuple(points),
        )  # fmt: skip
        return ReadBody(boundary, list(self.face_numbers), list(self.edge_numbers))

    def _shell_faces(self, shell: Node) -> tuple[tuple[int, ...], tuple[int, ...]]:
        faces = []
        for head, link in (("face", "next"), ("front_face", "next_front")):
            chain = chain_of(self.document, shell[head], link, "FACE")
            faces.append(tuple(self._face(face) for face in chain))
        return faces[0], faces[1]

    def _region_type(self, face: Node, side: str) -> str:
        shell = self.document.at(face[side])
        region = self.document.at(shell["region"]) if shell is not None and "region" in shell else None
        return str(region["type"]) if region is not None and "type" in region else "V"

    def _is_loose(self, number: int) -> bool:
        """Whether a face has no material on either side."""
        face = self.document.nodes[self.face_nodes[number]]
        return "S" not in (self._region_type(face, "shell"), self._region_type(face, "front_shell"))

    # --- faces -----------------------------------------------------------------------------

    def _face(self, node: Node) -> int:
        if node.index not in self.face_numbers:
            self.face_numbers[node.index] = len(self.faces)
            self.face_nodes.append(node.index)
            surface = self.geometry.surface(self.geometry.node(node, "surface"))
            chain = chain_of(self.document, node["loop"], "next", "LOOP")
            loops = tuple(self._loop(loop) for loop in chain)
            tolerance = node.in_mm("tolerance")
            forward = node["sense"] != "-"
            self.faces.append(Face(surface, forward, loops, tolerance))
        return self.face_numbers[node.index]

    def _loop(self, loop: Node) -> Loop:
        fins: list[Fin] = []
        seen: set[int] = set()
        at = self._at(loop["fin"], "FIN", loop)
        while at.index not in seen:
            seen.add(at.index)
            fins.append(self._fin(at))
            at = self._at(at["forward"], "FIN", at)
        if at.index != loop["fin"]:
            raise self.geometry.fail(loop, "its fins do not come back to the first")
        return tuple(fins)

    def _fin(self, node: Node) -> Fin:
        forward = node["sense"] != "-"
        if not node["edge"]:
            vertex = self._at(node["vertex"], "VERTEX", node)
            return Fin(None, forward, self._vertex(vertex))
        edge = self._edge(self._at(node["edge"], "EDGE", node))
        laid = self.document.at(node["curve"])
        curve = self.geometry.curve(laid) if laid is not None else None
        return Fin(edge, forward, curve=curve)

    # --- edges and vertices ----------------------------------------------------------------

    def _fins_of(self, edge: Node) -> list[Node]:
        fins: list[Node] = []
        seen: set[int] = set()
        at = self.document.at(edge["fin"])
        while at is not None and at.kind == "FIN" and at.index not in seen:
            seen.add(at.index)
            fins.append(at)
            at = self.document.at(at["other"])
        return fins

    def _edge(self, node: Node) -> int:
        if node.index not in self.edge_numbers:
            self.edge_numbers[node.index] = len(self.edges)
            curve_node = self.document.at(node["curve"])
            curve = self.geometry.curve(curve_node) if curve_node is not None else None
            start, end = self._ends(node)
            tolerance = node.in_mm("tolerance")
            self.edges.append(Edge(curve, start, end, tolerance))
        return self.edge_numbers[node.index]

    def _ends(self, edge: Node) -> tuple[int | None, int | None]:
        """Vertices at the start and the end: where its fins lead to, forwards and backwards."""
        ends: dict[bool, int] = {}
        fins = self._fins_of(edge)
        if not fins:
            raise self.geometry.fail(edge, "it has no fin")
        for fin in fins:
            forward = fin["sense"] != "-"
            if fin["vertex"]:
                ends.setdefault(forward, fin["vertex"])
            behind = self.document.at(fin["backward"])
            if behind is not None and "vertex" in behind and behind["vertex"]:
                ends.setdefault(not forward, behind["vertex"])
        if not ends:
            return None, None
        if len(ends) == 1:
            only = self._vertex(self._at(next(iter(ends.values())), "VERTEX", edge))
            return only, only
        start, end = (self._vertex(self._at(ends[side], "VERTEX", edge)) for side in (False, True))
        return start, end

    def _vertex(self, node: Node) -> int:
        if node.index not in self.vertex_numbers:
            point = self.geometry.node(node, "point")
            if "pvec" not in point:
                raise self.geometry.fail(node, "its point is no POINT")
            tolerance = node.in_mm("tolerance")
            self.vertex_numbers[node.index] = len(self.vertices)
            self.vertices.append(Vertex(self.geometry.vector(point, "pvec"), tolerance))
        return self.vertex_numbers[node.index]

    def _wires(self) -> tuple[tuple[int, ...], ...]:
        """Edges without faces, grouped by the vertices they share."""
        heads = [self.body["edge"]]
        for region in chain_of(self.document, self.body["region"], "next", "REGION"):
            heads += [s["edge"] for s in chain_of(self.document, region["shell"], "next", "SHELL")]
        loose: dict[int, int] = {}
        for head in heads:
            for edge in chain_of(self.document, head, "next", "EDGE"):
                if edge.index not in loose and not any(fin["loop"] for fin in self._fins_of(edge)):
                    loose[edge.index] = self._edge(edge)
        return connected(self.edges, loose.values())
