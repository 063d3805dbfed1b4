"""Bodies made ready for the kernel's STEP writer, which spoils two kinds of face.

On a torus whose frame is left-handed it writes the loops the wrong way round; and of a face without edges
on a torus that crosses itself it writes the whole surface. Measured by reading with another reader.
"""

from __future__ import annotations

from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepTools import BRepTools
from OCP.Geom import (
    Geom_BSplineCurve,
    Geom_Circle,
    Geom_Curve,
    Geom_Surface,
    Geom_SurfaceOfRevolution,
    Geom_ToroidalSurface,
    Geom_TrimmedCurve,
)
from OCP.GeomConvert import GeomConvert
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Vec
from OCP.ShapeBuild import ShapeBuild_ReShape
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape

from gondrel.core.errors import GondrelError
from gondrel.core.integral.plain import boundary_outline
from gondrel.core.kernel.base.shape import edges_of, faces_of
from gondrel.core.kernel.convert.boundary_out import boundary_of
from gondrel.core.kernel.exchange.outline_fit import fitted_to_outline
from gondrel.core.kernel.geometry.basis import basis_of

__all__ = ["ready_for_step"]

_TOLERANCE = 1e-7
_REVERSED = int(TopAbs_Orientation.TopAbs_REVERSED)


def ready_for_step(shape: TopoDS_Shape) -> tuple[TopoDS_Shape, tuple[int, ...]]:
    """A body that the kernel's STEP writer writes as it is, and the place of each of its faces in the
    body given. Call it inside kernel_call.
    """
    faces = faces_of(shape)
    places = tuple(range(len(faces)))
    surfaces = [basis_of(BRep_Tool.Surface_s(face)) for face in faces]
    whole = [face for face, surface in zip(faces, surfaces, strict=True)
             if _is_cut_short(surface) and _is_whole(face)]  # fmt: skip
    if whole:
        context = ShapeBuild_ReShape()
        for face in whole:
            context.Replace(face, _turned_arc(face))
        return context.Apply(shape), places
    tori = [surface for surface in surfaces if isinstance(surface, Geom_ToroidalSurface)]
    if any(not torus.Position().Direct() for torus in tori):
        return _right_handed(shape) or (shape, places)
    return shape, places


def _is_cut_short(surface: Geom_Surface) -> bool:
    """Whether faces on a surface may end where it does not: at the axis, on a profile that goes on."""
    if isinstance(surface, Geom_ToroidalSurface):
        return bool(surface.MajorRadius() < surface.MinorRadius())
    if not isinstance(surface, Geom_SurfaceOfRevolution):
        return False
    return not isinstance(surface.BasisCurve(), Geom_BSplineCurve)


def _is_whole(face: TopoDS_Face) -> bool:
    """Whether a face has no edges but its seam and its poles."""
    return all(BRep_Tool.Degenerated_s(e) or BRep_Tool.IsClosed_s(e, face) for e in edges_of(face))


def _turned_arc(face: TopoDS_Face) -> TopoDS_Face:
    """A face without edges between two poles as a turned spline, which ends there."""
    surface = basis_of(BRep_Tool.Surface_s(face))
    _, _, low, high = BRepTools.UVBounds_s(face)
    turned = int(face.Orientation()) == _REVERSED
    if isinstance(surface, Geom_ToroidalSurface):
        position = surface.Position()
        start, z, x = position.Location(), gp_Vec(position.Direction()), gp_Vec(position.XDirection())
        centre = start.Translated(x.Multiplied(surface.MajorRadius()))
        axes = gp_Ax2(centre, gp_Dir(x.Crossed(z)), gp_Dir(x))
        profile: Geom_Curve = Geom_Circle(axes, surface.MinorRadius())
        axis = gp_Ax1(start, position.Direction())
        turned = turned == position.Direct()  # a left-handed frame turns the natural normal round
    else:
        profile, axis = surface.BasisCurve(), surface.Axis()
    arc = GeomConvert.CurveToBSplineCurve_s(Geom_TrimmedCurve(profile, low, high))
    made = BRepBuilderAPI_MakeFace(Geom_SurfaceOfRevolution(arc, axis), _TOLERANCE).Face()
    return TopoDS.Face(made.Reversed()) if turned else made


def _right_handed(shape: TopoDS_Shape) -> tuple[TopoDS_Shape, tuple[int, ...]] | None:
    """The body made anew on right-handed frames, None when that does not give the same faces."""
    try:
        boundary = boundary_of(shape).boundary
        made = fitted_to_outline(boundary, boundary_outline(boundary, budget=0.0)).making.bodies
    except GondrelError:
        return None
    if len(made) != 1 or len(boundary.faces) != len(faces_of(shape)):
        return None
    places = {parts[0]: boundary.faces[n].source for n, parts in made[0].faces.items() if len(parts) == 1}
    if sorted(places) != list(range(len(boundary.faces))):
        return None
    return made[0].shape, tuple(places[place] for place in range(len(places)))
