"""Where a plane cuts a body: the exact cut faces, or the lines that it leaves of sheets."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Section
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.OCP.collections import List_TopoDS_Shape as ShapeList
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import compound_of, edges_of, faces_of, kind_of
from gondrel.core.kernel.measure.lengths import length_of
from gondrel.core.kernel.measure.mass import box_of, exact_area_of
from gondrel.core.model.body import BodyKind
from gondrel.core.model.cutting import CutPlane
from gondrel.core.model.facets import Facets

__all__ = ["CutShape", "cut_facets", "cut_shape", "frame_of"]

Floats = NDArray[np.float64]

_ROOM = 1.25
"""By how much the cutting face is larger than the body."""

_TOLERANCE = 1e-9


@dataclass(frozen=True, slots=True)
class CutShape:
    """What a plane leaves of a body.

    Args:
        shape: cut faces of a solid, lines of a sheet; None where the plane misses it.
        area: of the cut faces, mm2; perimeter: of all their rims, mm; for lines their length.
    """

    shape: TopoDS_Shape | None = None
    area: float = 0.0
    perimeter: float = 0.0


def frame_of(plane: CutPlane) -> tuple[Floats, Floats, Floats]:
    """Unit vectors of a plane: right and up as seen from the side that is taken away, and its normal.

    Up is as near to +Z as it can be; where the plane is level, +Y.
    """
    normal = plane.unit
    up = np.array([0.0, 0.0, 1.0]) if abs(normal[2]) < 1 - 1e-9 else np.array([0.0, 1.0, 0.0])
    right = np.cross(up, normal)
    right /= np.linalg.norm(right)
    return right, np.cross(normal, right), normal


def cut_shape(shape: TopoDS_Shape, plane: CutPlane, limits: Sequence[CutPlane] = ()) -> CutShape:
    """Cut a B-rep body by a plane.

    Args:
        limits: only what none of them takes away is cut.

    Raises:
        KernelRefused: when the kernel fails over it.

    Source: Boolean common part of the body and a plane face; areas by the kernel's adaptive integration,
    lengths by its Gauss integration.
    """
    with kernel_call("cutting a body"):
        tool = _cutting_face(box_of(shape), plane, limits)
        if tool is None:
            return CutShape()
        if kind_of(shape) is BodyKind.SOLID:
            cut = _common(shape, tool)
            faces = faces_of(cut) if cut is not None else []
            return _of_faces(faces)
        section = BRepAlgoAPI_Section(shape, tool, False)
        section.Approximation(True)
        section.Build()
        edges = edges_of(section.Shape()) if section.IsDone() else []
        if not edges:
            return CutShape()
        return CutShape(compound_of(edges), 0.0, sum(length_of(edge) for edge in edges))


def _of_faces(faces: Sequence[TopoDS_Face]) -> CutShape:
    if not faces:
        return CutShape()
    area = sum(exact_area_of(face) for face in faces)
    shape: TopoDS_Shape = compound_of(faces)
    if len(edges_of(shape)) < sum(len(edges_of(face)) for face in faces):  # where the plane grazes a wall
        joined = ShapeUpgrade_UnifySameDomain(shape, False, True, False)
        joined.Build()
        shape = joined.Shape()
    return CutShape(shape, area, sum(length_of(edge) for edge in edges_of(shape)))


def _common(shape: TopoDS_Shape, tool: TopoDS_Face) -> TopoDS_Shape | None:
    operation = BRepAlgoAPI_Common()
    arguments, tools = ShapeList(), ShapeList()
    arguments.Append(tool)
    tools.Append(shape)
    operation.SetArguments(arguments)
    operation.SetTools(tools)
    operation.SetNonDestructive(True)
    operation.Build()
    made = operation.Shape() if operation.IsDone() else None
    return None if made is None or made.IsNull() else made


def _corners(box: Sequence[float]) -> Floats:
    low, high = np.array(box[:3]), np.array(box[3:])
    grid = np.indices((2, 2, 2)).reshape(3, 8).T
    corners: Floats = np.where(grid == 1, high, low)
    return corners


def _outline(box: Sequence[float], plane: CutPlane, limits: Sequence[CutPlane]) -> Floats | None:
    """Corners of the convex part of the plane that cuts what lies in a box, mm; None where it misses it."""
    corners = _corners(box)
    heights = plane.heights(corners)
    if heights.min() > _TOLERANCE or heights.max() < -_TOLERANCE:
        return None
    right, up, normal = frame_of(plane)
    foot = corners - heights[:, None] * normal
    middle = (foot.min(axis=0) + foot.max(axis=0)) / 2
    middle -= float(plane.heights(middle[None])[0]) * normal
    reach = _ROOM * float(np.linalg.norm(corners - middle, axis=1).max()) + 1e-3
    outline = np.array([middle + reach * (x * right + y * up) for x, y in _SQUARE])
    for limit in limits:
        outline = _without(outline, limit)
        if len(outline) < 3:
            return None
    return outline


_SQUARE = ((-1, -1), (1, -1), (1, 1), (-1, 1))


def _without(outline: Floats, limit: CutPlane) -> Floats:
    """What of a convex outline a plane does not take away.

    Source: clipping a polygon side by side by a half space, a textbook method of computer graphics.
    """
    heights = limit.heights(outline)
    left: list[Floats] = []
    for place, (here, height) in enumerate(zip(outline, heights, strict=True)):
        after, next_height = outline[(place + 1) % len(outline)], heights[(place + 1) % len(outline)]
        if height <= 0.0:
            left.append(here)
        if (height <= 0.0) != (next_height <= 0.0):
            left.append(here + (after - here) * (height / (height - next_height)))
    return np.array(left).reshape(-1, 3)


def _cutting_face(box: Sequence[float], plane: CutPlane, limits: Sequence[CutPlane]) -> TopoDS_Face | None:
    outline = _outline(box, plane, limits)
    return None if outline is None else _polygon_face(outline, [], plane)


def _polygon_face(rim: Floats, holes: Sequence[Floats], plane: CutPlane) -> TopoDS_Face:
    """A plane face within a polygon and outside others, corners in mm."""
    normal = plane.unit
    at = gp_Pln(gp_Pnt(*(float(v) for v in rim[0])), gp_Dir(*(float(v) for v in normal)))
    maker = BRepBuilderAPI_MakeFace(at, _wire(rim).Wire(), True)
    for hole in holes:
        maker.Add(_wire(hole).Wire())
    return maker.Face()


def _wire(corners: Floats) -> BRepBuilderAPI_MakePolygon:
    made = BRepBuilderAPI_MakePolygon()
    for corner in corners.tolist():
        made.Add(gp_Pnt(*corner))
    made.Close()
    return made


def cut_facets(mesh: Facets, plane: CutPlane, limits: Sequence[CutPlane] = ()) -> CutShape:
    """Cut a mesh body by a plane: polygons where it is closed there, exact for its facets.

    Raises:
        KernelRefused: when the kernel fails over it.

    Source: sides of facets that cross the plane, joined to rings; a region is filled where an odd number of
    rings lies round it.
    """
    if not len(mesh.points):
        return CutShape()
    box = [*mesh.points.min(axis=0).tolist(), *mesh.points.max(axis=0).tolist()]
    outline = _outline(box, plane, limits)
    if outline is None:
        return CutShape()
    right, up, _ = frame_of(plane)
    origin = np.asarray(plane.point, float)
    axes = np.stack([right, up], axis=1)
    lines = shapely.linestrings((_stretches(mesh, plane) - origin) @ axes)
    window = shapely.Polygon((outline - origin) @ axes)
    joined = shapely.node(shapely.multilinestrings(list(lines)))
    rings, _, _, _ = shapely.polygonize_full([joined])
    filled = shapely.intersection(_odd(list(rings.geoms)), window)
    faces = []
    with kernel_call("cutting a mesh"):
        for region in shapely.get_parts(filled):
            if region.geom_type == "Polygon" and region.area > 0.0:
                rim, *holes = (
                    np.asarray(ring.coords)[:-1] @ axes.T + origin
                    for ring in (region.exterior, *region.interiors)
                )
                faces.append(_polygon_face(rim, [hole[::-1] for hole in holes], plane))
    if not faces:
        return CutShape()
    shape = compound_of(faces)
    return CutShape(shape, float(filled.area), float(filled.length))


def _stretches(mesh: Facets, plane: CutPlane) -> Floats:
    """Where facets cross the plane, (n, 2, 3) mm; corners that lie in it count as beyond it."""
    heights = plane.heights(mesh.points)
    beyond = (heights >= 0.0)[mesh.triangles]
    crossed = np.flatnonzero(beyond.any(axis=1) & ~beyond.all(axis=1))
    made = np.empty((len(crossed), 2, 3))
    triangles = mesh.triangles[crossed]
    sides = beyond[crossed]
    alone = np.where(sides.sum(axis=1) == 1, sides.argmax(axis=1), (~sides).argmax(axis=1))
    rows = np.arange(len(crossed))
    apex = triangles[rows, alone]
    for place in (1, 2):
        other = triangles[rows, (alone + place) % 3]
        low, high = np.minimum(apex, other), np.maximum(apex, other)  # the same point for both neighbours
        share = heights[low] / (heights[low] - heights[high])
        made[:, place - 1] = mesh.points[low] + share[:, None] * (mesh.points[high] - mesh.points[low])
    return made


def _odd(regions: list[shapely.Polygon]) -> shapely.Geometry:
    """The union of regions that an odd number of rings lies round."""
    if not regions:
        return shapely.Polygon()
    shells = [shapely.Polygon(region.exterior) for region in regions]
    inner = [region.representative_point() for region in regions]
    tree = shapely.STRtree(shells)
    pairs = tree.query(inner, predicate="within")
    depth = np.bincount(pairs[0], minlength=len(regions))
    return shapely.unary_union([r for r, times in zip(regions, depth, strict=True) if times % 2])
