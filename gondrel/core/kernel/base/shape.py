"""Shapes as blobs and as parts of shapes."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence

from OCP.BinTools import BinTools
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepTools import BRepTools
from OCP.Geom import Geom_ToroidalSurface
from OCP.gp import gp_Trsf
from OCP.OCP.collections import (
    IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap,
)
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import (
    TopoDS,
    TopoDS_Compound,
    TopoDS_Edge,
    TopoDS_Face,
    TopoDS_Shape,
    TopoDS_Shell,
    TopoDS_Vertex,
)

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.model.body import BodyKind
from gondrel.core.model.facets import Facets, is_facets
from gondrel.core.model.product import Placement

__all__ = [
    "Shape",
    "changed",
    "compound_of",
    "crossing_tori",
    "edges_of",
    "faces_of",
    "kind_of",
    "located",
    "location_of",
    "moved_blob",
    "moved_copy",
    "placement_of",
    "shape_from_blob",
    "shape_to_blob",
    "shell_of",
    "shells_of",
    "split_bodies",
    "vertices_of",
]


Shape = TopoDS_Shape
"""A shape of the kernel, for those who pass it on."""


def shape_to_blob(shape: TopoDS_Shape) -> bytes:
    """The shape as bytes, without triangles. Raises KernelRefused."""
    stream = io.BytesIO()
    with kernel_call("storing a body"):
        BRepTools.Clean_s(shape)
        BinTools.Write_s(shape, stream)
    return stream.getvalue()


def shape_from_blob(blob: bytes) -> TopoDS_Shape:
    """The shape again. Raises KernelRefused when the bytes hold none."""
    shape = TopoDS_Shape()
    with kernel_call("reading a stored body"):
        BinTools.Read_s(shape, io.BytesIO(blob))
    if shape.IsNull():
        raise KernelRefused("a stored body is empty")
    return shape


def _mapped(shape: TopoDS_Shape, kind: TopAbs_ShapeEnum) -> list[TopoDS_Shape]:
    shape_map = ShapeMap()
    TopExp.MapShapes_s(shape, kind, shape_map)
    return [shape_map.FindKey(i) for i in range(1, shape_map.Extent() + 1)]


def faces_of(shape: TopoDS_Shape) -> list[TopoDS_Face]:
    """The faces, each once, in the order the shape holds them."""
    return [TopoDS.Face(face) for face in _mapped(shape, TopAbs_ShapeEnum.TopAbs_FACE)]


def edges_of(shape: TopoDS_Shape) -> list[TopoDS_Edge]:
    """The edges, each once, in the order the shape holds them."""
    return [TopoDS.Edge(edge) for edge in _mapped(shape, TopAbs_ShapeEnum.TopAbs_EDGE)]


def vertices_of(shape: TopoDS_Shape) -> list[TopoDS_Vertex]:
    """The vertices, each once, in the order the shape holds them."""
    return [TopoDS.Vertex(vertex) for vertex in _mapped(shape, TopAbs_ShapeEnum.TopAbs_VERTEX)]


def shells_of(shape: TopoDS_Shape) -> list[TopoDS_Shape]:
    """The shells, each once, in the order the shape holds them."""
    return _mapped(shape, TopAbs_ShapeEnum.TopAbs_SHELL)


def compound_of(shapes: Iterable[TopoDS_Shape]) -> TopoDS_Compound:
    """A compound of some shapes."""
    compound, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(compound)
    for shape in shapes:
        builder.Add(compound, shape)
    return compound


def shell_of(faces: Sequence[TopoDS_Shape]) -> TopoDS_Shell:
    """A shell of some faces, closed or not."""
    shell, builder = TopoDS_Shell(), BRep_Builder()
    builder.MakeShell(shell)
    for face in faces:
        builder.Add(shell, face)
    return shell


_KINDS = (
    (TopAbs_ShapeEnum.TopAbs_SOLID, None, BodyKind.SOLID),
    (TopAbs_ShapeEnum.TopAbs_SHELL, TopAbs_ShapeEnum.TopAbs_SOLID, BodyKind.SHEET),
    (TopAbs_ShapeEnum.TopAbs_FACE, TopAbs_ShapeEnum.TopAbs_SHELL, BodyKind.SHEET),
    (TopAbs_ShapeEnum.TopAbs_WIRE, TopAbs_ShapeEnum.TopAbs_FACE, BodyKind.WIRE),
    (TopAbs_ShapeEnum.TopAbs_EDGE, TopAbs_ShapeEnum.TopAbs_WIRE, BodyKind.WIRE),
    (TopAbs_ShapeEnum.TopAbs_VERTEX, TopAbs_ShapeEnum.TopAbs_EDGE, BodyKind.POINT),
)


def split_bodies(shape: TopoDS_Shape) -> list[tuple[BodyKind, TopoDS_Shape]]:
    """The bodies a shape is made of: solids, then loose shells, faces, wires, edges and points.

    A loose shell inside a solid is not listed again, and so on down.
    """
    bodies: list[tuple[BodyKind, TopoDS_Shape]] = []
    for wanted, avoided, kind in _KINDS:
        explorer = (
            TopExp_Explorer(shape, wanted) if avoided is None else TopExp_Explorer(shape, wanted, avoided)
        )
        while explorer.More():
            bodies.append((kind, explorer.Current()))
            explorer.Next()
    return bodies


def kind_of(shape: TopoDS_Shape) -> BodyKind:
    """The kind of a single body. Raises KernelRefused for an empty shape."""
    bodies = split_bodies(shape)
    if not bodies:
        raise KernelRefused("a body holds no geometry")
    return bodies[0][0]


def placement_of(location: TopLoc_Location) -> Placement:
    """A kernel location as 16 numbers, row-major, mm."""
    transform = location.Transformation()
    rows = [
        transform.Value(row, column) if row < 4 else float(column == 4)
        for row in range(1, 5)
        for column in range(1, 5)
    ]
    return tuple(rows)


def location_of(placement: Placement) -> TopLoc_Location:
    """A kernel location for a rigid or mirrored placement. Raises KernelRefused for a skewed one."""
    transform = gp_Trsf()
    with kernel_call("placing an occurrence"):
        transform.SetValues(*placement[:12])
    return TopLoc_Location(transform)


def located(shape: TopoDS_Shape, placement: Placement) -> TopoDS_Shape:
    """A shape in its place; its geometry is shared. Raises KernelRefused for a placement that skews."""
    return shape.Located(location_of(placement))


def changed(shape: TopoDS_Shape, linear: tuple[float, ...]) -> TopoDS_Shape:
    """A copy of a shape, mirrored and scaled alike along all axes, about the origin.

    Args:
        linear: 3x3 matrix by rows.

    Raises:
        KernelRefused: when the kernel fails over it.
    """
    rows = (value for row in range(3) for value in (*linear[3 * row : 3 * row + 3], 0.0))
    return moved_copy(shape, tuple(rows))


def crossing_tori(shape: TopoDS_Shape) -> int:
    """How many faces lie on a torus that crosses itself."""
    surfaces = (BRep_Tool.Surface_s(face) for face in faces_of(shape))
    return sum(isinstance(s, Geom_ToroidalSurface) and s.MajorRadius() < s.MinorRadius() for s in surfaces)


def moved_blob(blob: bytes, placement: Placement) -> bytes:
    """A stored body, B-rep or mesh, moved, mirrored or scaled. Raises KernelRefused."""
    if is_facets(blob):
        return Facets.from_bytes(blob).moved(placement).to_bytes()
    return shape_to_blob(moved_copy(shape_from_blob(blob), placement))


def moved_copy(shape: TopoDS_Shape, placement: Placement) -> TopoDS_Shape:
    """A copy of a shape whose geometry itself is moved, mirrored or scaled. Raises KernelRefused."""
    transform = gp_Trsf()
    with kernel_call("placing a body"):
        transform.SetValues(*placement[:12])
        return BRepBuilderAPI_Transform(shape, transform, True).Shape()
