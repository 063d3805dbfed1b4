"""A boundary as the nodes of one body."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from gondrel.core.formats.xt.builder import NodeBuilder
from gondrel.core.formats.xt.geometry_write import add_curve, add_on_surface, add_surface
from gondrel.core.model.boundary import Boundary, Edge, Face, Fin
from gondrel.core.model.geometry import OnSurface

__all__ = ["RES_LINEAR", "RES_SIZE", "SIZE_BOX", "WrittenNodes", "add_body"]

RES_SIZE, RES_LINEAR = 1e6, 1e-5
"""Largest size and smallest distance of the modeller, mm (the format reference)."""

SIZE_BOX = 500_000.0
"""A body must lie within this of the origin along each axis, mm: half of the largest size."""

_KINDS = {"solid": 1, "wire": 2, "point": 2, "sheet": 3, "general": 6}
"""Values of body_type (the format reference; acorns count as wire bodies, from memory)."""


@dataclass(slots=True)
class WrittenNodes:
    """The indices of a body's node and of those of its faces, in order, and of its edges."""

    body: int
    faces: list[int] = field(default_factory=list)
    edges: list[int] = field(default_factory=list)


def add_body(make: NodeBuilder, boundary: Boundary) -> WrittenNodes:
    """The nodes of a body, node ids left to be given. Points and sizes are in metres inside."""
    return _Writer(make, boundary).write()


class _Writer:
    def __init__(self, make: NodeBuilder, boundary: Boundary) -> None:
        self.make = make
        self.boundary = boundary
        kind = boundary.kind
        if kind == "sheet" and any(count > 2 for count in _uses(boundary)):
            kind = "general"
        self.body = make.new(
            "BODY",
            res_size=RES_SIZE,
            res_linear=RES_LINEAR,
            state=1,
            body_type=_KINDS[kind],
            nom_geom_state=1,
        )
        self.out = WrittenNodes(self.body)
        self.vertices: list[int] = []
        self.fins_of: dict[int, list[tuple[int, bool]]] = {}
        self.fins_at: dict[int, list[int]] = {}
        self.surfaces: list[int] = []
        self.curves: list[int] = []
        self.points: list[int] = []

    def write(self) -> WrittenNodes:
        make, body = self.make, self.body
        self._vertices()
        self.out.edges = [make.new("EDGE", owner=body, tolerance=e.tolerance) for e in self.boundary.edges]
        self.out.faces = [self._face(face) for face in self.boundary.faces]
        self._edges()
        self._regions()
        for vertex, fins in self.fins_at.items():
            make.set(vertex, fin=make.chain(fins, forth="next_at_vx", back=""))
        make.set(
            body,
            edge=make.chain(self.out.edges),
            vertex=make.chain(self.vertices),
            boundary_surface=make.chain(self.surfaces),
            boundary_curve=make.chain(self.curves),
            boundary_point=make.chain(self.points),
        )
        return self.out

    def _vertices(self) -> None:
        for vertex in self.boundary.vertices:
            at = self.make.new("VERTEX", owner=self.body, tolerance=vertex.tolerance)
            point = self.make.new("POINT", owner=at, pvec=vertex.point)
            self.make.set(at, point=point)
            self.vertices.append(at)
            self.points.append(point)

    # --- faces, loops, fins ----------------------------------------------------------------

    def _face(self, face: Face) -> int:
        make = self.make
        at = make.new("FACE", sense="+" if face.forward else "-", tolerance=face.tolerance)
        surface = add_surface(make, face.surface, at)
        self.surfaces.append(surface)
        make.set(at, surface=surface)
        loops = []
        for loop in face.loops:
            node = make.new("LOOP", face=at)
            fins = [self._fin(fin, node, surface) for fin in loop]
            for before, after in zip(fins, fins[1:] + fins[:1], strict=True):
                make.set(before, forward=after)
                make.set(after, backward=before)
            make.set(node, fin=fins[0])
            loops.append(node)
        make.set(at, loop=make.chain(loops, back=""))
        return at

    def _fin(self, fin: Fin, loop: int, surface: int) -> int:
        make = self.make
        if fin.edge is None:
            assert fin.vertex is not None
            at = make.new("FIN", loop=loop, vertex=self.vertices[fin.vertex], sense="+")
            self.fins_at.setdefault(self.vertices[fin.vertex], []).append(at)
            return at
        edge = self.boundary.edges[fin.edge]
        at = self._half(fin.edge, edge, fin.forward)
        make.set(at, loop=loop)
        if isinstance(fin.curve, OnSurface):
            ends = [self._end(edge, not fin.forward), self._end(edge, fin.forward)]
            nodes = add_on_surface(make, fin.curve, surface, at, (ends[0], ends[1]), edge.tolerance or 0.0)
            self.curves += nodes
            make.set(at, curve=nodes[0])
        return at

    def _half(self, number: int, edge: Edge, forward: bool) -> int:
        """A fin of an edge at the vertex where it ends, not yet in a loop."""
        last = edge.end if forward else edge.start
        at = self.make.new("FIN", edge=self.out.edges[number], sense="+" if forward else "-")
        if last is not None:
            self.make.set(at, vertex=self.vertices[last])
            self.fins_at.setdefault(self.vertices[last], []).append(at)
        self.fins_of.setdefault(number, []).append((at, forward))
        return at

    def _end(self, edge: Edge, last: bool) -> tuple[float, float, float]:
        number = edge.end if last else edge.start
        if number is None:
            return (0.0, 0.0, 0.0)
        return self.boundary.vertices[number].point

    # --- edges -----------------------------------------------------------------------------

    def _edges(self) -> None:
        make = self.make
        for number, edge in enumerate(self.boundary.edges):
            at = self.out.edges[number]
            fins = self.fins_of.get(number, [])
            senses = [forward for _, forward in fins]
            for missing in (True, False):  # a rim or a wire keeps its ends by fins without a loop
                if missing not in senses:
                    self._half(number, edge, missing)
            fins = sorted(self.fins_of[number], key=lambda fin: not fin[1])
            ring = [index for index, _ in fins]
            for before, after in zip(ring, ring[1:] + ring[:1], strict=True):
                make.set(before, other=after)
            make.set(at, fin=ring[0])
            if edge.curve is not None:
                curve = add_curve(make, edge.curve, at)
                self.curves.append(curve)
                make.set(at, curve=curve)

    # --- regions and shells ----------------------------------------------------------------

    def _regions(self) -> None:
        make, boundary, body = self.make, self.boundary, self.body
        if boundary.kind == "solid":
            self._solid_regions()
            return
        region = make.new("REGION", body=body, type="V")
        shells = []
        if boundary.kind == "sheet":
            for faces in boundary.shells:
                shell = make.new("SHELL", body=body, region=region)
                self._face_chains(faces, shell, shell)
                shells.append(shell)
        elif boundary.kind == "wire":
            for edges in boundary.wires:
                first = self.out.edges[edges[0]]
                shells.append(make.new("SHELL", body=body, region=region, edge=first))
        else:
            shells.append(make.new("SHELL", body=body, region=region, vertex=self.vertices[0]))
        make.set(region, shell=make.chain(shells, back=""))
        make.set(body, region=region, shell=shells[0] if shells else 0)

    def _solid_regions(self) -> None:
        make, body = self.make, self.body
        outside = make.new("REGION", body=body, type="V")
        regions = [outside]
        first_shell = 0
        outer_voids = []
        for parts in self.boundary.regions:
            solid = make.new("REGION", body=body, type="S")
            regions.append(solid)
            shells = []
            for place, faces in enumerate(parts):
                full = make.new("SHELL", body=body, region=solid)
                void_region = outside
                if place:
                    void_region = make.new("REGION", body=body, type="V")
                    regions.append(void_region)
                void = make.new("SHELL", region=void_region)
                if place:
                    make.set(void_region, shell=void)
                else:
                    outer_voids.append(void)
                self._face_chains(faces, full, void)
                shells.append(full)
            make.set(solid, shell=make.chain(shells, back=""))
            first_shell = first_shell or shells[0]
        make.set(outside, shell=make.chain(outer_voids, back=""))
        make.set(body, region=make.chain(regions), shell=first_shell)

    def _face_chains(self, faces: Sequence[int], shell: int, front: int) -> None:
        make = self.make
        nodes = [self.out.faces[f] for f in faces]
        for node in nodes:
            make.set(node, shell=shell, front_shell=front)
        make.set(shell, face=make.chain(nodes))
        make.set(front, front_face=make.chain(nodes, forth="next_front", back="previous_front"))


def _uses(boundary: Boundary) -> list[int]:
    counts = [0] * len(boundary.edges)
    for face in boundary.faces:
        for loop in face.loops:
            for fin in loop:
                if fin.edge is not None:
                    counts[fin.edge] += 1
    return counts
