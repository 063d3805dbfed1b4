"""Normals of surfaces and faces."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face

__all__ = ["is_away_from", "normal_at", "outward_at", "outward_in_middle"]

Floats = NDArray[np.float64]

_LEAST = 1e-12
"""A normal shorter than this before it is made a unit is none."""


def normal_at(surface: BRepAdaptor_Surface, u: float, v: float) -> tuple[Floats, Floats] | None:
    """A point of a surface and its unit normal; None where it has none. Call it inside kernel_call."""
    at, along_u, along_v = gp_Pnt(), gp_Vec(), gp_Vec()
    surface.D1(u, v, at, along_u, along_v)
    normal = np.cross(along_u.Coord(), along_v.Coord())
    length = float(np.linalg.norm(normal))
    return None if length < _LEAST else (np.array(at.Coord()), normal / length)


def outward_at(face: TopoDS_Face, u: float, v: float) -> tuple[Floats, Floats] | None:
    """As normal_at, of a face, with the normal out of the material."""
    found = normal_at(BRepAdaptor_Surface(face, False), u, v)
    if found is None:
        return None
    at, normal = found
    return at, -normal if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else normal


def outward_in_middle(face: TopoDS_Face) -> tuple[Floats, Floats] | None:
    """As outward_at, in the middle of the face's parameters."""
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    return outward_at(face, (u0 + u1) / 2, (v0 + v1) / 2)


def is_away_from(foot: Floats, way: Floats, at: Floats, normal: Floats) -> bool:
    """Whether a normal at a point leads away from an axis, as on a pin and not as in a bore.

    Args:
        foot, way: a point of the axis and its unit direction.
    """
    away = at - foot
    return float(normal @ (away - (away @ way) * way)) > 0.0
