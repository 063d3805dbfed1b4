"""Points along edges."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_CurveType
from OCP.TopoDS import TopoDS_Edge

__all__ = ["along_circles", "points_along"]


def points_along(edge: TopoDS_Edge, count: int) -> NDArray[np.float64]:
    """Points along an edge, evenly by its parameter, (count, 3), mm. Call it inside kernel_call."""
    curve = BRepAdaptor_Curve(edge)
    shares = np.linspace(0.0, 1.0, count)
    if curve.GetType() == GeomAbs_CurveType.GeomAbs_Circle:
        points: NDArray[np.float64] = along_circles([edge], shares)[0]
        return points
    first, last = curve.FirstParameter(), curve.LastParameter()
    return np.array([curve.Value(t).Coord() for t in (first + shares * (last - first)).tolist()])


def along_circles(edges: list[TopoDS_Edge], shares: NDArray[np.float64]) -> NDArray[np.float64]:
    """Points along circular edges at shares of their parameter ranges, (edges, shares, 3), mm."""
    frames, ranges, radii = np.zeros((len(edges), 3, 3)), np.zeros((len(edges), 2)), np.zeros(len(edges))
    for row, edge in enumerate(edges):
        curve = BRepAdaptor_Curve(edge)
        circle = curve.Circle()
        frame = circle.Position()
        ranges[row], radii[row] = (curve.FirstParameter(), curve.LastParameter()), circle.Radius()
        ways = frame.Location(), frame.XDirection(), frame.YDirection()
        frames[row] = [way.Coord() for way in ways]
    angles = ranges[:, :1] + shares * (ranges[:, 1:] - ranges[:, :1])
    flat = np.stack([np.cos(angles), np.sin(angles)], axis=2) * radii[:, None, None]
    points: NDArray[np.float64] = frames[:, None, 0] + np.einsum("npk,nkd->npd", flat, frames[:, 1:])
    return points
