"""Simple bodies that hold others: box, cylinder, convex hull, outer skin."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepClass3d import BRepClass3d, BRepClass3d_SolidClassifier
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.OCP.collections import List_TopoDS_Shape as ShapeList
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS, TopoDS_Shape

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import compound_of, split_bodies, vertices_of
from gondrel.core.kernel.mesh.meshing import tessellated
from gondrel.core.kernel.mesh.solidify import make_solids
from gondrel.core.model.body import BodyKind
from gondrel.core.model.facets import Facets, welded
from gondrel.core.work.late import late

__all__ = ["ENVELOPES", "Envelope", "envelope_of"]

_spatial = late("scipy.spatial")

ENVELOPES = ("box", "cylinder", "hull", "skin")
"""Kinds of envelopes there are."""

_CHORD_SHARE = 1 / 2000
_MOST_POINTS = 4000


@dataclass(frozen=True, slots=True)
class Envelope:
    """A body that holds others.

    Args:
        beyond: mm, how far the held may reach out of it: the chord height of the triangles it was made of
            for a hull, 0 for any other.
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
    if kind == "skin":
        return Envelope(_skin(shapes), 0.0)
    chord = float(np.linalg.norm(high - low)) * _CHORD_SHARE
    points = tessellated(whole, chord=chord, angle=0.3).points
    if kind == "cylinder":
        return Envelope(_cylinder(points, low, high, chord), 0.0)
    return Envelope(_hull(points), chord)


def _skin(shapes: Sequence[TopoDS_Shape]) -> TopoDS_Shape:
    """Everything as one, without what is enclosed in it; what touches nothing else stays a solid beside."""
    with kernel_call("joining everything to one skin"):
        first, others = ShapeList(), ShapeList()
        for place, shape in enumerate(shapes):
            (others if place else first).Append(shape)
        whole = shapes[0]
        if len(shapes) > 1:
            make = BRepAlgoAPI_Fuse()
            make.SetArguments(first)
            make.SetTools(others)
            make.SetNonDestructive(True)
            make.SetRunParallel(True)
            make.Build()
            if not make.IsDone():
                raise KernelRefused("the bodies can't be joined to one skin")
            whole = make.Shape()
        solids = []
        for kind, solid in split_bodies(whole):
            if kind is BodyKind.SOLID:
                shell = BRepClass3d.OuterShell_s(TopoDS.Solid(solid))
                solids.append(BRepBuilderAPI_MakeSolid(shell).Solid())
        solids = [s for s in solids if not any(_encloses(other, s) for other in solids if other is not s)]
        made = solids[0] if len(solids) == 1 else compound_of(solids)
        if not solids or not BRepCheck_Analyzer(made).IsValid():
            raise KernelRefused("no valid solid comes of joining the bodies to one skin")
        return made


def _encloses(one: TopoDS_Shape, other: TopoDS_Shape) -> bool:
    """Whether a solid lies within another; they do not cross."""
    point = BRep_Tool.Pnt_s(vertices_of(other)[0])
    box = Bnd_Box()
    BRepBndLib.Add_s(one, box)
    if box.IsOut(point):
        return False
    return bool(BRepClass3d_SolidClassifier(one, point, 1e-7).State() == TopAbs_State.TopAbs_IN)


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
