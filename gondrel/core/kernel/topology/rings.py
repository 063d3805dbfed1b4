"""The half-edges of a face as rings, without seams and degenerated edges.

A seam is taken out by the Euler operator that kills an edge: what stood before the one use is linked
with what stood behind the other. Source: the operator is textbook knowledge of boundary models
(Mantyla, An Introduction to Solid Modeling, the chapter on Euler operators; from memory).
"""

from __future__ import annotations

from dataclasses import dataclass, field

from OCP.BRep import BRep_Tool
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeFix import ShapeFix_Wire
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Vertex, TopoDS_Wire

from gondrel.core.errors import KernelRefused

__all__ = ["HalfEdge", "Rings", "rings_of"]


@dataclass(slots=True)
class HalfEdge:
    """One use of an edge by a face, in the direction of the loop seen from the face's normal.

    Args:
        edge: the edge as the face uses it before turning; key: its index in a map of edges.
    """

    edge: TopoDS_Edge
    key: int
    forward: bool
    next: HalfEdge | None = field(default=None, repr=False)
    prev: HalfEdge | None = field(default=None, repr=False)


@dataclass(slots=True)
class Rings:
    """The loops of a face, and the vertices in which its surface runs together."""

    loops: list[list[HalfEdge]]
    singular: list[int]


def rings_of(face: TopoDS_Face, edges: ShapeMap, vertices: ShapeMap) -> Rings:
    """The loops of a face in the order of the XT format: its face on the left.

    Args:
        edges, vertices: maps of the whole body, by which they are told.

    Raises:
        KernelRefused: when a wire does not hang together.
    """
    turned = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
    straight = TopoDS.Face(face.Oriented(TopAbs_Orientation.TopAbs_FORWARD))
    halves: list[HalfEdge] = []
    singular: list[int] = []
    explorer = TopExp_Explorer(straight, TopAbs_ShapeEnum.TopAbs_WIRE)
    while explorer.More():
        ring = _ring(TopoDS.Wire(explorer.Current()), straight, edges)
        if turned:
            ring.reverse()
        kept = []
        for half in ring:
            if BRep_Tool.Degenerated_s(half.edge):
                singular.append(vertices.FindIndex(TopExp.FirstVertex_s(half.edge)))
            else:
                half.forward = half.forward != turned
                kept.append(half)
        for before, after in zip(kept, kept[1:] + kept[:1], strict=True):
            before.next, after.prev = after, before
        halves += kept
        explorer.Next()
    return Rings(_loops(_without_seams(halves)), singular)


def _ring(wire: TopoDS_Wire, face: TopoDS_Face, edges: ShapeMap) -> list[HalfEdge]:
    walked = _walk(wire, face, edges)
    count = _count(wire)
    if len(walked) != count:
        fix = ShapeFix_Wire(wire, face, 1e-6)
        fix.FixReorder()
        walked = _walk(fix.Wire(), face, edges)
    if len(walked) != count:
        walked = _chained(wire, edges)
    return walked


def _count(wire: TopoDS_Wire) -> int:
    explorer, count = TopExp_Explorer(wire, TopAbs_ShapeEnum.TopAbs_EDGE), 0
    while explorer.More():
        count += 1
        explorer.Next()
    return count


def _half(edge: TopoDS_Edge, edges: ShapeMap) -> HalfEdge:
    forward = edge.Orientation() == TopAbs_Orientation.TopAbs_FORWARD
    return HalfEdge(edge, edges.FindIndex(edge), forward)


def _walk(wire: TopoDS_Wire, face: TopoDS_Face, edges: ShapeMap) -> list[HalfEdge]:
    walk = []
    explorer = BRepTools_WireExplorer(wire, face)
    while explorer.More():
        walk.append(_half(explorer.Current(), edges))
        explorer.Next()
    return walk


def _chained(wire: TopoDS_Wire, edges: ShapeMap) -> list[HalfEdge]:
    """Edges chained by their vertices alone, or by where these lie when they are not shared.

    Raises:
        KernelRefused: when that leads nowhere.
    """
    left = []
    explorer = TopExp_Explorer(wire, TopAbs_ShapeEnum.TopAbs_EDGE)
    while explorer.More():
        left.append(TopoDS.Edge(explorer.Current()))
        explorer.Next()
    chain = [left.pop(0)]
    while left:
        end = TopExp.LastVertex_s(chain[-1], True)
        gaps = [_gap(end, TopExp.FirstVertex_s(e, True)) for e in left]
        nearest = min(range(len(left)), key=gaps.__getitem__)
        if gaps[nearest] > 1.0:
            raise KernelRefused("a loop of a face does not hang together")
        chain.append(left.pop(nearest))
    return [_half(edge, edges) for edge in chain]


def _gap(one: TopoDS_Vertex, other: TopoDS_Vertex) -> float:
    """How far two vertices lie apart, as a share of what their tolerances allow; -1 for the same."""
    if one.IsSame(other):
        return -1.0
    allowed = BRep_Tool.Tolerance_s(one) + BRep_Tool.Tolerance_s(other)
    return float(BRep_Tool.Pnt_s(one).Distance(BRep_Tool.Pnt_s(other)) / allowed)


def _without_seams(halves: list[HalfEdge]) -> list[HalfEdge]:
    uses: dict[int, list[HalfEdge]] = {}
    for half in halves:
        uses.setdefault(half.key, []).append(half)
    gone: set[int] = set()
    for pair in uses.values():
        if len(pair) == 2 and pair[0].forward != pair[1].forward:
            _kill(*pair)
            gone.update(id(half) for half in pair)
    return [half for half in halves if id(half) not in gone]


def _kill(one: HalfEdge, other: HalfEdge) -> None:
    if one.next is other and other.next is one:
        return
    if one.next is other:
        _link(one.prev, other.next)
    elif other.next is one:
        _link(other.prev, one.next)
    else:
        before, after = one.prev, one.next
        _link(before, other.next)
        _link(other.prev, after)


def _link(before: HalfEdge | None, after: HalfEdge | None) -> None:
    assert before is not None and after is not None
    before.next, after.prev = after, before


def _loops(halves: list[HalfEdge]) -> list[list[HalfEdge]]:
    seen: set[int] = set()
    loops = []
    for half in halves:
        if id(half) in seen:
            continue
        loop: list[HalfEdge] = []
        at: HalfEdge | None = half
        while at is not None and id(at) not in seen:
            seen.add(id(at))
            loop.append(at)
            at = at.next
        loops.append(loop)
    return loops
