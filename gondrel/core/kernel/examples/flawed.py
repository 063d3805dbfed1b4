"""More bodies with one flaw each, of shape rather than of topology, and what is like them but sound."""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeVertex,
)
from OCP.BRepLib import BRepLib
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.BRepTools import BRepTools_ReShape
from OCP.Geom import Geom_CylindricalSurface, Geom_Line, Geom_TrimmedCurve
from OCP.Geom2d import Geom2d_Line
from OCP.GeomConvert import GeomConvert
from OCP.gp import gp_Ax3, gp_Dir, gp_Dir2d, gp_Pln, gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Shape, TopoDS_Wire

from gondrel.core.kernel.base.shape import edges_of, faces_of, shell_of, vertices_of
from gondrel.core.kernel.examples.broken import solid_of
from gondrel.core.kernel.geometry.splines import bsurface_in, spline_in
from gondrel.core.kernel.measure.mass import measure
from gondrel.core.kernel.mesh.meshing import tessellated
from gondrel.core.kernel.modelling.build import block, cut, cylinder, sphere
from gondrel.core.kernel.topology.sew import sew_faces
from gondrel.core.model.geometry import BCurve, BSurface

__all__ = [
    "bow_tie",
    "crossing_curve",
    "crossing_surface",
    "edge_too_short_for_its_end",
    "edge_without_length",
    "faceted_ball",
    "folded_surface",
    "helix_on",
    "narrow_land",
    "pinched",
    "smooth_curve",
    "split_block",
    "touching_cavity",
    "uneven_curve",
    "with_ledge",
    "with_loose_edge",
]

Point = tuple[float, float, float]


def bow_tie() -> TopoDS_Shape:
    """A plane face whose loop crosses itself in its middle, at (10, 10, 0)."""
    maker = BRepBuilderAPI_MakePolygon()
    for x, y in ((0, 0), (20, 20), (20, 0), (0, 20)):
        maker.Add(gp_Pnt(x, y, 0))
    maker.Close()
    return BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), maker.Wire(), True).Face()


def with_loose_edge() -> TopoDS_Shape:
    """A block of 10 x 20 x 30 mm with an edge in its face at z = 30 that bounds nothing."""
    shape = block(10, 20, 30)
    top = max(faces_of(shape), key=lambda face: _middle(face)[2])
    top.Free(True)
    edge = BRepBuilderAPI_MakeEdge(gp_Pnt(5, 5, 30), gp_Pnt(5, 15, 30)).Edge()
    wire, builder = TopoDS_Wire(), BRep_Builder()
    builder.MakeWire(wire)
    builder.Add(wire, edge.Oriented(TopAbs_Orientation.TopAbs_INTERNAL))
    builder.Add(top, wire)
    return shape


def pinched() -> TopoDS_Shape:
    """A solid of two blocks that have only a corner in common, at (10, 20, 30)."""
    one, other = block(10, 20, 30), block(5, 5, 5, at=(10, 20, 30))
    corner = next(v for v in vertices_of(one) if _is_at(v, (10, 20, 30)))
    theirs = next(v for v in vertices_of(other) if _is_at(v, (10, 20, 30)))
    swap = BRepTools_ReShape()
    swap.Replace(theirs, corner)
    return solid_of([*faces_of(one), *faces_of(swap.Apply(other))])


def _is_at(vertex: TopoDS_Shape, point: Point) -> bool:
    return bool(BRep_Tool.Pnt_s(TopoDS.Vertex(vertex)).Distance(gp_Pnt(*point)) < 1e-6)


def touching_cavity(gap: float) -> TopoDS_Shape:
    """A block with a cavity that comes within a distance of its face at x = 0, mm."""
    outer = block(10, 20, 30)
    inner = block(2, 2, 2, at=(gap, 9, 14))
    solid = solid_of(list(faces_of(outer)))
    BRep_Builder().Add(solid, shell_of(list(faces_of(inner))).Reversed())
    return solid


def edge_too_short_for_its_end(by: float) -> TopoDS_Shape:
    """A block with one edge whose curve stops short of its neighbours by a length, mm."""
    shape = block(10, 20, 30)
    edge = edges_of(shape)[0]
    first, last = BRep_Tool.Range_s(edge)
    line = BRep_Tool.Curve_s(edge, 0.0, 0.0)
    shorter = GeomConvert.CurveToBSplineCurve_s(Geom_TrimmedCurve(line, first, last - by))
    builder = BRep_Builder()
    builder.UpdateEdge(edge, shorter, by * 1.01)
    builder.Range(edge, first, last - by)
    builder.UpdateVertex(TopExp.LastVertex_s(edge), by * 1.01)
    return shape


def edge_without_length() -> TopoDS_Shape:
    """An edge that is shorter than the kernel can tell apart."""
    edge, builder = TopoDS_Edge(), BRep_Builder()
    builder.MakeEdge(edge, Geom_Line(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), 1e-7)
    ends = [BRepBuilderAPI_MakeVertex(gp_Pnt(x, 0, 0)).Vertex() for x in (0.0, 5e-8)]
    builder.Add(edge, ends[0].Oriented(TopAbs_Orientation.TopAbs_FORWARD))
    builder.Add(edge, ends[1].Oriented(TopAbs_Orientation.TopAbs_REVERSED))
    builder.Range(edge, 0.0, 5e-8)
    return edge


def with_ledge(width: float) -> TopoDS_Shape:
    """A block of 10 x 20 x 30 mm whose upper half is set back by a width at x = 10, mm."""
    return cut(block(10, 20, 30), block(1, 20, 15, at=(10 - width, 0, 15)))


def narrow_land(width: float) -> TopoDS_Shape:
    """A block of 10 x 20 x 30 mm with a hole of 6 mm that leaves a land of a width at x = 0, mm."""
    return cut(block(10, 20, 30), cylinder(3, 40, at=(3 + width, 10, -5)))


def split_block() -> TopoDS_Shape:
    """A block of 20 x 20 x 30 mm whose long faces are each in two halves."""
    one, other = block(10, 20, 30), block(10, 20, 30, at=(10, 0, 0))
    halves = [f for f in faces_of(one) if abs(_middle(f)[0] - 10) > 1e-6]
    halves += [f for f in faces_of(other) if abs(_middle(f)[0] - 10) > 1e-6]
    return sew_faces(halves, 1e-6).bodies[0].shape


def _middle(face: TopoDS_Shape) -> Point:
    return measure(face).centroid


def _through(points: Sequence[Point], degree: int = 3) -> TopoDS_Shape:
    count = len(points)
    spans = count - degree
    knots = tuple(float(i) for i in range(spans + 1))
    many = (degree + 1, *(1 for _ in range(spans - 1)), degree + 1)
    return BRepBuilderAPI_MakeEdge(spline_in(BCurve(degree, tuple(points), (), knots, many))).Edge()


def crossing_curve() -> TopoDS_Shape:
    """An edge on a plane spline that makes a loop, symmetric about x = 10."""
    return _through(((0, 0, 0), (10, 0, 0), (24, 10, 0), (10, 24, 0), (-4, 10, 0), (10, 0, 0), (20, 0, 0)))


def smooth_curve() -> TopoDS_Shape:
    """An edge on a plane spline that bends gently."""
    return _through(((0, 0, 0), (5, 1, 0), (10, 3, 0), (15, 3, 0), (20, 1, 0), (25, 0, 0), (30, 0, 0)))


def uneven_curve() -> TopoDS_Shape:
    """A straight edge whose parameter runs some ten thousand times as fast at its end as at its start."""
    return _through(
        ((0, 0, 0), (0.001, 0, 0), (0.002, 0, 0), (0.004, 0, 0), (10, 0, 0), (20, 0, 0), (40, 0, 0))
    )


def _swept(points: Sequence[tuple[float, float]], depth: float) -> TopoDS_Shape:
    """A face on a spline surface: a profile in the xz plane moved along y."""
    count = len(points)
    spans = count - 3
    knots = tuple(float(i) for i in range(spans + 1))
    many = (4, *(1 for _ in range(spans - 1)), 4)
    rows = tuple(tuple((float(x), y, float(z)) for y in (0.0, depth)) for x, z in points)
    surface = BSurface(3, 1, rows, (), knots, many, (0.0, 1.0), (2, 2))
    return BRepBuilderAPI_MakeFace(bsurface_in(surface), 1e-7).Face()


def crossing_surface() -> TopoDS_Shape:
    """A face on a spline surface that crosses itself along a line at x = 10."""
    return _swept(((0, 0), (10, 0), (24, 10), (10, 24), (-4, 10), (10, 0), (20, 0)), 12.0)


def folded_surface() -> TopoDS_Shape:
    """A flat face on a spline surface that runs forth, back and forth again along x."""
    rows = tuple(
        tuple((x, y, 0.1 * y) for y in (0.0, 8.0)) for x in (0.0, 12.0, 24.0, 4.0, 16.0, 28.0)
    )  # fmt: skip
    surface = BSurface(3, 1, rows, (), (0.0, 1.0, 2.0, 3.0), (4, 1, 1, 4), (0.0, 1.0), (2, 2))
    return BRepBuilderAPI_MakeFace(bsurface_in(surface), 1e-7).Face()


def helix_on(diameter: float, pitch: float, turns: float) -> TopoDS_Shape:
    """A narrow strip that winds round the z axis: the side of a modelled thread."""
    side = Geom_CylindricalSurface(gp_Ax3(), diameter / 2)
    slope = math.hypot(2 * math.pi, pitch)
    line = Geom2d_Line(gp_Pnt2d(0, 0), gp_Dir2d(2 * math.pi, pitch))
    edge = BRepBuilderAPI_MakeEdge(line, side, 0.0, turns * slope).Edge()
    BRepLib.BuildCurve3d_s(edge)
    return BRepPrimAPI_MakePrism(edge, gp_Vec(0, 0, pitch / 4)).Shape()


def faceted_ball(radius: float) -> TopoDS_Shape:
    """A ball of plane triangles only."""

    faces = []
    mesh = tessellated(sphere(radius), chord=radius / 50, angle=0.4)
    for corners in mesh.points[mesh.triangles].tolist():
        maker = BRepBuilderAPI_MakePolygon()
        for corner in corners:
            maker.Add(gp_Pnt(*corner))
        maker.Close()
        faces.append(BRepBuilderAPI_MakeFace(maker.Wire(), True).Face())
    return sew_faces(faces, 1e-6).bodies[0].shape
