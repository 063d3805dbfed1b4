"""How far faces reach along an axis and how far they go round it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.TopoDS import TopoDS_Face

from gondrel.core.kernel.base.shape import edges_of

__all__ = ["heights_of_edges", "middle_walks", "turned_about"]

Floats = NDArray[np.float64]

_STEPS = 17


def middle_walks(face: TopoDS_Face) -> tuple[Floats, Floats]:
    """Points across the middle of a face, (n, 3) mm, along the one parameter and along the other."""
    surface = BRepAdaptor_Surface(face, False)
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    steps = np.linspace(0.0, 1.0, _STEPS).tolist()
    return (
        np.array([surface.Value(u0 + s * (u1 - u0), (v0 + v1) / 2).Coord() for s in steps]),
        np.array([surface.Value((u0 + u1) / 2, v0 + s * (v1 - v0)).Coord() for s in steps]),
    )


def turned_about(walk: Floats, way: Floats) -> float:
    """How far a walk, told from a point of an axis, goes round it, rad."""
    across = walk - np.outer(walk @ way, way)
    sines = np.cross(across[:-1], across[1:]) @ way
    cosines = (across[:-1] * across[1:]).sum(axis=1)
    return abs(float(np.arctan2(sines, cosines).sum()))


def heights_of_edges(face: TopoDS_Face, at: Floats, way: Floats) -> list[float]:
    """Where points of the edges of a face lie along an axis, mm."""
    heights: list[float] = []
    for edge in edges_of(face):
        if BRep_Tool.Degenerated_s(edge):
            continue
        curve = BRepAdaptor_Curve(edge)
        first, last = curve.FirstParameter(), curve.LastParameter()
        for share in np.linspace(0.0, 1.0, _STEPS).tolist():
            point = np.array(curve.Value(first + share * (last - first)).Coord())
            heights.append(float((point - at) @ way))
    return heights
