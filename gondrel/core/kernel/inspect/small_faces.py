"""Faces of a body that are left away when it is made simpler: small holes, roundings and bevels."""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.GProp import GProp_GProps
from OCP.OCP.collections import (
    IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap,
)
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of
from gondrel.core.kernel.inspect.dihedral import edges_as_walked, outward_turn

__all__ = ["chamfer_faces", "fillet_faces", "hole_faces"]


def hole_faces(body: TopoDS_Shape, below: float) -> list[int]:
    """Indices of the faces of round holes of less than a diameter, mm: whole cylinders with material
    around, the narrowest first, then their floors and shoulders."""
    with kernel_call("looking for holes"):
        radii = {index: _inner_radius(face) for index, face in enumerate(faces_of(body))}
        small = [(radius, index) for index, radius in radii.items() if radius and 2 * radius < below]
        return _with_ends(body, [index for _, index in sorted(small)])


def _with_ends(body: TopoDS_Shape, chosen: list[int]) -> list[int]:
    """Faces with those between them alone: the floors and shoulders of holes."""
    edges = ShapeMap()
    TopExp.MapShapes_s(body, TopAbs_ShapeEnum.TopAbs_EDGE, edges)
    rims = [{edges.FindIndex(edge) for edge in edges_of(face)} for face in faces_of(body)]
    around = set().union(*(rims[index] for index in chosen)) if chosen else set()
    ends = [i for i, rim in enumerate(rims) if i not in chosen and rim and rim <= around]
    return [*chosen, *ends]


def _inner_radius(face: TopoDS_Face) -> float | None:
    """The radius of a cylinder all round with material outside it, None of any other face."""
    surface = BRepAdaptor_Surface(face, True)
    if surface.GetType() != GeomAbs_SurfaceType.GeomAbs_Cylinder:
        return None
    turned = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
    whole = abs(surface.LastUParameter() - surface.FirstUParameter()) > 2 * math.pi - 1e-6
    is_inner = surface.Cylinder().Direct() == turned
    return float(surface.Cylinder().Radius()) if whole and is_inner else None


def fillet_faces(body: TopoDS_Shape, below: float) -> list[int]:
    """Indices of rounding faces of less than a radius, mm: parts of cylinders, tori and balls that turn by
    less than half a circle."""
    with kernel_call("looking for fillets"):
        return [i for i, face in enumerate(faces_of(body)) if 0 < _rounding(face) < below]


def _rounding(face: TopoDS_Face) -> float:
    """The radius that a face rounds with, 0 of one that is no rounding."""
    surface = BRepAdaptor_Surface(face, True)
    kind = surface.GetType()
    u = abs(surface.LastUParameter() - surface.FirstUParameter())
    v = abs(surface.LastVParameter() - surface.FirstVParameter())
    if kind == GeomAbs_SurfaceType.GeomAbs_Cylinder and u < math.pi - 1e-6:
        return float(surface.Cylinder().Radius())
    if kind == GeomAbs_SurfaceType.GeomAbs_Torus and v < math.pi - 1e-6:
        return float(surface.Torus().MinorRadius())
    if kind == GeomAbs_SurfaceType.GeomAbs_Sphere and u < math.pi - 1e-6:
        return float(surface.Sphere().Radius())
    return 0.0


def chamfer_faces(body: TopoDS_Shape, below: float) -> list[int]:
    """Indices of bevel faces of less than a width, mm: planes and cones between two other faces of the same
    body, that stand out of the material on both of their long sides."""
    with kernel_call("looking for chamfers"):
        owners: dict[int, list[int]] = {}
        edges = ShapeMap()
        TopExp.MapShapes_s(body, TopAbs_ShapeEnum.TopAbs_EDGE, edges)
        faces = faces_of(body)
        for place, face in enumerate(faces):
            for edge in edges_of(face):
                owners.setdefault(edges.FindIndex(edge), []).append(place)
        return [
            place for place, face in enumerate(faces)
            if 0 < _bevel(place, face, faces, owners, edges) < below
        ]  # fmt: skip


def _bevel(
    place: int, face: TopoDS_Face, faces: Sequence[TopoDS_Face], owners: dict[int, list[int]],
    edges: ShapeMap,
) -> float:  # fmt: skip
    """The width of a bevel, 0 of a face that is none.

    A bevel's two longest sides run beside each other and turn outwards to their neighbours by less than a
    right angle each, and by more than that together with it.
    """
    kind = BRepAdaptor_Surface(face, False).GetType()
    if kind not in (GeomAbs_SurfaceType.GeomAbs_Plane, GeomAbs_SurfaceType.GeomAbs_Cone):
        return 0.0
    sides = sorted(
        ((_length(edge), edge) for edge in edges_as_walked(face)),
        key=lambda side: side[0], reverse=True,
    )[:2]  # fmt: skip
    if len(sides) < 2 or sides[1][0] < 0.5 * sides[0][0]:
        return 0.0
    turned = 0.0
    for _, edge in sides:
        others = [each for each in owners[edges.FindIndex(edge)] if each != place]
        if len(others) != 1:
            return 0.0
        angle = outward_turn(edge, face, faces[others[0]])
        if not math.radians(5) < angle < math.radians(85):
            return 0.0
        turned += angle
    if turned > math.radians(175):
        return 0.0
    figures = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, figures)
    long_side = (sides[0][0] + sides[1][0]) / 2
    width = float(figures.Mass()) / long_side
    return width if width < 0.5 * long_side else 0.0


def _length(edge: TopoDS_Edge) -> float:
    figures = GProp_GProps()
    BRepGProp.LinearProperties_s(edge, figures)
    return float(figures.Mass())
