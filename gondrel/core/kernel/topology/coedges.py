"""Loops of faces as plain figures: which edge each step takes, and its curve in the parameters."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.Geom2d import Geom2d_Circle, Geom2d_Line
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Iterator

__all__ = ["Coedges", "coedges_of", "pcurves_of"]

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Coedges:
    """Each use of an edge by a face, loop by loop as they are run through, arrays of (n,).

    Args:
        edge, face: their indices; loop: number of the loop, counted through the body; forward: whether
            the edge runs forward in the face; shapes: the edges, turned as they are used.
        odd: faces that hold something else besides, such as edges within or single vertices.
    """

    edge: NDArray[np.int64]
    face: NDArray[np.int64]
    loop: NDArray[np.int64]
    forward: NDArray[np.bool_]
    shapes: list[TopoDS_Edge]
    odd: frozenset[int]

    def __len__(self) -> int:
        return len(self.edge)


_FORWARD, _REVERSED = int(TopAbs_Orientation.TopAbs_FORWARD), int(TopAbs_Orientation.TopAbs_REVERSED)
_WIRE = int(TopAbs_ShapeEnum.TopAbs_WIRE)


def coedges_of(faces: Sequence[TopoDS_Face], order: ShapeMap) -> Coedges:
    """The uses of edges by some faces.

    Args:
        order: the edges of the body by their index from 1; others are left out.
    """
    rows: list[tuple[int, int, int, bool]] = []
    shapes: list[TopoDS_Edge] = []
    odd: set[int] = set()
    loop = 0
    for place, face in enumerate(faces):
        wires = TopoDS_Iterator(face)
        while wires.More():
            wire = wires.Value()
            wires.Next()
            if int(wire.ShapeType()) != _WIRE:
                odd.add(place)
                continue
            steps = []
            edges = TopoDS_Iterator(wire)
            while edges.More():
                edge = edges.Value()
                edges.Next()
                index, way = order.FindIndex(edge), int(edge.Orientation())
                if not index or (way not in (_FORWARD, _REVERSED)):
                    odd.add(place)
                    continue
                steps.append(((index - 1, place, loop, way == _FORWARD), TopoDS.Edge(edge)))
            if int(wire.Orientation()) == _REVERSED:
                steps.reverse()
            rows += [row for row, _ in steps]
            shapes += [shape for _, shape in steps]
            loop += 1
    table = np.array(rows, np.int64).reshape(-1, 4)
    return Coedges(table[:, 0], table[:, 1], table[:, 2], table[:, 3] != 0, shapes, frozenset(odd))


def pcurves_of(coedges: Coedges, rows: Sequence[int], faces: Sequence[TopoDS_Face], count: int) -> Floats:
    """Points along the edges of some uses in the parameters of their surfaces, evenly by the edge's own.

    Returns: (rows, count, 2), from the edge's beginning to its end; not a number where it has no such
    curve.
    """
    pcurves = np.full((len(rows), count, 2), np.nan)
    owners = coedges.face[rows].tolist()
    kinds, ranges, frames, radii = [], [], [], []
    shares = np.linspace(0.0, 1.0, count)
    for place, row in enumerate(rows):
        edge = coedges.shapes[row]
        curve = BRep_Tool.CurveOnSurface_s(edge, faces[owners[place]], 0.0, 0.0)
        kind, span, frame, radius = 0, (0.0, 0.0), _NOWHERE, 0.0
        if curve is not None:
            span = BRep_Tool.Range_s(edge)
        if isinstance(curve, Geom2d_Line):
            way = curve.Position()
            kind, frame = _LINE, (way.Location().Coord(), way.Direction().Coord(), _NOWHERE[2])
        elif isinstance(curve, Geom2d_Circle):
            axes = curve.Position()
            frame = axes.Location().Coord(), axes.XDirection().Coord(), axes.YDirection().Coord()
            kind, radius = _CIRCLE, curve.Radius()
        elif curve is not None:
            first, last = span
            pcurves[place] = [curve.Value(t).Coord() for t in (first + shares * (last - first)).tolist()]
        kinds.append(kind)
        ranges.append(span)
        frames.append(frame)
        radii.append(radius)
    spans = np.array(ranges)
    at = spans[:, :1] + shares * (spans[:, 1:] - spans[:, :1])
    line, circle = np.array(kinds) == _LINE, np.array(kinds) == _CIRCLE
    straight, arcs = np.array(frames)[line], np.array(frames)[circle]
    pcurves[line] = straight[:, None, 0] + at[line, :, None] * straight[:, None, 1]
    ways = np.stack([np.cos(at[circle]), np.sin(at[circle])], axis=2) * np.array(radii)[circle, None, None]
    pcurves[circle] = arcs[:, None, 0] + np.matmul(ways, arcs[:, 1:])
    return pcurves


_LINE, _CIRCLE = 1, 2
_NOWHERE = ((0.0, 0.0),) * 3
