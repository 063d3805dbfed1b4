"""Simple bodies that hold others: box, cylinder, convex hull."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import compound_of
from gondrel.core.kernel.mesh.meshing import tessellated
from gondrel.core.kernel.mesh.solidify import make_solids
from gondrel.core.model.facets import Facets, welded
from gondrel.core.work.late import late

__all__ = ["ENVELOPES", "Envelope", "envelope_of"]

_spatial = late("scipy.spatial")

ENVELOPES = ("box", "cylinder", "hull")
"""Kinds of envelopes there are."""

_CHORD_SHARE = 1 / 2000
_MOST_POINTS = 4000


@dataclass(frozen=True, slots=True)
class Envelope:
    """A body that holds others.

    Args:
        beyond: mm, how far the held may reach out of it: 0 for a box, the chord height of the triangles it
            was made of for a cylinder or a hull.
    """

    shape: TopoDS_Shape
    beyond: float


def envelope_of(shapes: Sequence[TopoDS_Shape], kind: str) -> Envelope:
    """The least body of a kind that holds shapes; of cylinders that along the axis where it is smallest.

    Raises:
        KernelRefused: for shapes without extent.
    """
    if kind not in ENVELOPES:
        raise ValueError(f"there is no envelope {kind!r}")
    whole = compound_of(shapes)
    with kernel_call("making an envelope"):
        box = Bnd_Box()
        BRepBndLib.AddOptimal_s(whole, box, False, False)
        if box.IsVoid():
            raise KernelRefused("there is nothing to hold")
        low, high = np.array(box.CornerMin().Coord()), np.array(box.CornerMax().Coord())
        if (high - low).min() < 1e-6:
            raise KernelRefused("what is flat has no envelope")
        if kind == "box":
            return Envelope(BRepPrimAPI_MakeBox(gp_Pnt(*low), gp_Pnt(*high)).Shape(), 0.0)
    chord = float(np.linalg.norm(high - low)) * _CHORD_SHARE
    points = tessellated(whole, chord=chord, angle=0.3).points
    if kind == "cylinder":
        return Envelope(_cylinder(points, low, high, chord), 0.0)
    return Envelope(_hull(points), chord)


def _cylinder(points: np.ndarray, low: np.ndarray, high: np.ndarray, chord: float) -> TopoDS_Shape:  # type: ignore[type-arg]
    """A cylinder along the axis of the frame that gives the smallest; it holds the chords' arcs too."""
    best: tuple[float, TopoDS_Shape] | None = None
    for along in range(3):
        across = [i for i in range(3) if i != along]
        flat = points[:, across]
        middle = (low[across] + high[across]) / 2
        radius = float(np.linalg.norm(flat - middle, axis=1).max()) + chord
        height = float(high[along] - low[along])
        volume = math.pi * radius**2 * height
        if best is not None and volume >= best[0]:
            continue
        at, way = np.zeros(3), np.zeros(3)
        at[across], at[along], way[along] = middle, low[along], 1.0
        axes = gp_Ax2(gp_Pnt(*at.tolist()), gp_Dir(*way.tolist()))
        with kernel_call("making an envelope"):
            best = volume, BRepPrimAPI_MakeCylinder(axes, radius, height).Shape()
    assert best is not None
    return best[1]


def _hull(points: np.ndarray) -> TopoDS_Shape:  # type: ignore[type-arg]
    if len(points) > 20 * _MOST_POINTS:
        points = points[_spatial.ConvexHull(points).vertices]
    hull = _spatial.ConvexHull(points)
    corners = points[hull.simplices]
    outward = np.einsum("ij,ij->i", np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]),
                        hull.equations[:, :3])  # fmt: skip
    corners[outward < 0] = corners[outward < 0][:, ::-1]
    mesh: Facets = welded(corners, 0.0)
    made = make_solids(mesh).shapes
    if len(made) != 1:
        raise KernelRefused("no solid comes of the hull")
    return made[0]
