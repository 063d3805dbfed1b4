"""Bodies broken on purpose, for examples of checks and for trying mends."""

from __future__ import annotations

import re
from collections.abc import Callable
from math import pi
from pathlib import Path

from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeSolid
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.Geom import Geom_BSplineSurface, Geom_CylindricalSurface, Geom_RectangularTrimmedSurface
from OCP.GeomAPI import GeomAPI_PointsToBSplineSurface
from OCP.GeomConvert import GeomConvert
from OCP.gp import gp_Ax3, gp_Pnt, gp_Vec
from OCP.OCP.collections import Array2_gp_Pnt
from OCP.TopoDS import TopoDS, TopoDS_Shape, TopoDS_Solid

from gondrel.core.kernel.base.shape import edges_of, faces_of, shell_of, vertices_of
from gondrel.core.kernel.exchange.step_in import read_step
from gondrel.core.kernel.exchange.step_out import write_body
from gondrel.core.kernel.geometry.splines import spline_in
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.geometry import BCurve
from gondrel.core.work.files import private_folder

__all__ = [
    "close_knots_wire",
    "cylinder_as_spline",
    "finned",
    "heavy_wire",
    "inside_out",
    "kinked_wire",
    "moved_vertex",
    "shifted_plane",
    "solid_of",
    "spline_sheet",
    "straight_wire",
    "unsound_face",
    "wide_tolerance",
]


def solid_of(faces: list[TopoDS_Shape]) -> TopoDS_Solid:
    """A solid that claims to be bounded by some faces."""
    return BRepBuilderAPI_MakeSolid(shell_of(faces)).Solid()


def finned(shape: TopoDS_Shape) -> TopoDS_Solid:
    """A solid with a fin: one more face on an edge that two faces have already."""
    fin = BRepPrimAPI_MakePrism(edges_of(shape)[0], gp_Vec(-5.0, -5.0, 0.0)).Shape()
    return solid_of([*faces_of(shape), *faces_of(fin)])


def inside_out(shape: TopoDS_Shape) -> TopoDS_Solid:
    """A solid with the material outside."""
    return solid_of([face.Reversed() for face in faces_of(shape)])


def wide_tolerance(shape: TopoDS_Shape, tolerance: float) -> TopoDS_Shape:
    """The shape with one vertex of a wide tolerance."""
    BRep_Builder().UpdateVertex(TopoDS.Vertex(vertices_of(shape)[0]), tolerance)
    return shape


def spline_sheet(corner: float) -> TopoDS_Shape:
    """A face on a spline surface through a 4 x 4 grid, one corner raised."""
    grid = Array2_gp_Pnt(1, 4, 1, 4)
    for i in range(1, 5):
        for j in range(1, 5):
            grid.SetValue(i, j, gp_Pnt(10.0 * i, 10.0 * j, corner if (i, j) == (2, 3) else 0.0))
    surface: Geom_BSplineSurface = GeomAPI_PointsToBSplineSurface(grid).Surface()
    return BRepBuilderAPI_MakeFace(surface, 1e-7).Face()


def cylinder_as_spline(radius: float, height: float) -> TopoDS_Shape:
    """The side of a cylinder, a quarter of it, as a spline face."""
    side = Geom_CylindricalSurface(gp_Ax3(), radius)
    quarter = Geom_RectangularTrimmedSurface(side, 0.0, pi / 2, 0.0, height)
    return BRepBuilderAPI_MakeFace(GeomConvert.SurfaceToBSplineSurface_s(quarter), 1e-7).Face()


def straight_wire(start: tuple[float, float, float], end: tuple[float, float, float]) -> TopoDS_Shape:
    """A straight edge by itself."""
    return BRepBuilderAPI_MakeEdge(gp_Pnt(*start), gp_Pnt(*end)).Edge()


def kinked_wire() -> TopoDS_Shape:
    """An edge on a spline of degree 1 that bends by a right angle."""
    poles = ((0.0, 0.0, 0.0), (10.0, 0.0, 0.0), (10.0, 10.0, 0.0))
    curve = spline_in(BCurve(1, poles, (), (0.0, 1.0, 2.0), (2, 1, 2)))
    return BRepBuilderAPI_MakeEdge(curve).Edge()


def heavy_wire() -> TopoDS_Shape:
    """An edge on a spline of degree 20."""
    poles = tuple((float(i), float(i % 2), 0.0) for i in range(21))
    curve = spline_in(BCurve(20, poles, (), (0.0, 1.0), (21, 21)))
    return BRepBuilderAPI_MakeEdge(curve).Edge()


def close_knots_wire() -> TopoDS_Shape:
    """An edge on a spline of degree 3 with two knots next to each other."""
    poles = tuple((float(i), float(i % 3), 0.0) for i in range(6))
    curve = spline_in(BCurve(3, poles, (), (0.0, 0.5, 0.5 + 1e-8, 1.0), (4, 1, 1, 4)))
    return BRepBuilderAPI_MakeEdge(curve).Edge()


def _through_step(change: Callable[[str], str]) -> TopoDS_Shape:
    """A block of 20 x 30 x 10 mm written as STEP, changed in its text, and read as sent."""
    text = change(write_body(block(20, 30, 10), "mm").data.decode("ascii"))
    solids: list[TopoDS_Shape] = []

    def keep(shape: TopoDS_Shape) -> str:
        solids.append(shape)
        return str(len(solids))

    with private_folder() as folder:
        path = Path(folder) / "broken.stp"
        path.write_text(text, "ascii")
        read_step(str(path), keep)
    return solids[0]


def shifted_plane(by: float) -> TopoDS_Shape:
    """A block whose top plane was moved while its edges stayed."""

    def change(text: str) -> str:
        plane = re.findall(r"PLANE\('',#(\d+)\)", text)[-1]
        placement = re.search(rf"#{plane} = AXIS2_PLACEMENT_3D\('',#(\d+)", text)
        assert placement is not None
        point = re.search(rf"#{placement[1]} = CARTESIAN_POINT\('',\(([^)]*)\)\)", text)
        assert point is not None
        x, y, z = (float(v) for v in point[1].split(","))
        moved = f"#{placement[1]} = CARTESIAN_POINT('',({x + by},{y + by},{z + by}))"
        return text.replace(point[0], moved)

    return _through_step(change)


def moved_vertex(by: float) -> TopoDS_Shape:
    """A block with one vertex away from where its edges end."""

    def change(text: str) -> str:
        vertex = re.search(r"VERTEX_POINT\('',#(\d+)\)", text)
        assert vertex is not None
        point = re.search(rf"#{vertex[1]} = CARTESIAN_POINT\('',\(([^)]*)\)\)", text)
        assert point is not None
        x, y, z = (float(v) for v in point[1].split(","))
        return text.replace(point[0], f"#{vertex[1]} = CARTESIAN_POINT('',({x},{y},{z - by}))")

    return _through_step(change)


def unsound_face() -> TopoDS_Shape:
    """A block with an edge missing from a loop."""

    def change(text: str) -> str:
        loop = re.search(r"EDGE_LOOP\('',\((#\d+),", text)
        assert loop is not None
        return text.replace(loop[0], "EDGE_LOOP('',(", 1)

    return _through_step(change)
