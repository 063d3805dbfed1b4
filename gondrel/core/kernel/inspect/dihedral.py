"""How a surface turns over an edge from one face to the next."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face

__all__ = ["edges_as_walked", "outward_turn"]


def edges_as_walked(face: TopoDS_Face) -> list[TopoDS_Edge]:
    """The edges of a face, each in the sense in which its loop is walked, material to the left; a seam
    comes twice."""
    made = []
    explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
    while explorer.More():
        made.append(TopoDS.Edge(explorer.Current()))
        explorer.Next()
    return made


def outward_turn(edge: TopoDS_Edge, face: TopoDS_Face, other: TopoDS_Face) -> float:
    """By which angle, rad, the outer normal turns at the middle of an edge: above zero where it stands out
    of the material, below zero where it lies in a corner.

    Args:
        edge: of the first face, as edges_as_walked gives it.
    """
    curve = BRepAdaptor_Curve(edge)
    at = (curve.FirstParameter() + curve.LastParameter()) / 2
    point, tangent = gp_Pnt(), gp_Vec()
    curve.D1(at, point, tangent)
    way = np.array(tangent.Coord())
    if edge.Orientation() == TopAbs_Orientation.TopAbs_REVERSED:
        way = -way
    here, there = _normal(edge, face, at), _normal(edge, other, at)
    angle = math.acos(float(np.clip(here @ there, -1.0, 1.0)))
    return angle if float(np.cross(here, there) @ way) >= 0 else -angle


def _normal(edge: TopoDS_Edge, face: TopoDS_Face, at: float) -> NDArray[np.float64]:
    surface = BRepAdaptor_Surface(face, False)
    place = BRepAdaptor_Curve2d(edge, face).Value(at)
    point, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    surface.D1(place.X(), place.Y(), point, du, dv)
    normal = np.array(du.Crossed(dv).Coord())
    length = float(np.linalg.norm(normal))
    normal = normal / length if length else normal
    return -normal if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else normal
