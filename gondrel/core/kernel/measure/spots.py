"""Where faces and edges of a body are: centroid and size, by which each is known again in another body."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopoDS import TopoDS_Edge, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of

__all__ = ["edge_spots", "face_spots", "nearest_spot", "spot_on"]

_NEAR = 1e-3
"""By how much, mm, the middle and the length of a completed edge may differ from the raw one's."""


def face_spots(shape: TopoDS_Shape) -> NDArray[np.float64]:
    """Centroid, mm, and area, mm2, of each face, (n, 4), in the order of faces_of. Raises KernelRefused."""
    rows = []
    with kernel_call("looking where faces lie"):
        for face in faces_of(shape):
            figures = GProp_GProps()
            BRepGProp.SurfaceProperties_s(face, figures)
            centre = figures.CentreOfMass()
            rows.append((centre.X(), centre.Y(), centre.Z(), figures.Mass()))
    return np.array(rows, np.float64).reshape(-1, 4)


def edge_spots(shape: TopoDS_Shape) -> NDArray[np.float64]:
    """Centroid and length of each edge, mm, (n, 4), in the order of edges_of; not a number
    for an edge without a curve. Raises KernelRefused."""
    with kernel_call("looking where edges lie"):
        rows = [spot_on(edge) for edge in edges_of(shape)]
    return np.array(rows, np.float64).reshape(-1, 4)


def spot_on(edge: TopoDS_Edge) -> tuple[float, float, float, float]:
    """Centroid of an edge as a line, and its length, mm: wherever a closed one begins, they stay. Call it
    inside kernel_call."""
    if BRep_Tool.Degenerated_s(edge) or not BRep_Tool.IsGeometric_s(edge):
        return (float("nan"),) * 4
    figures = GProp_GProps()
    BRepGProp.LinearProperties_s(edge, figures)
    centre = figures.CentreOfMass()
    return (centre.X(), centre.Y(), centre.Z(), figures.Mass())


def nearest_spot(spots: NDArray[np.float64], spot: NDArray[np.float64]) -> int:
    """Place of the edge whose middle and length are those of a spot, -1 when there is none."""
    if not len(spots):
        return -1
    off = np.nan_to_num(np.abs(spots - spot).max(axis=1), nan=np.inf)
    place = int(off.argmin())
    return place if off[place] <= _NEAR else -1
