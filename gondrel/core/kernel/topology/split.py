"""Bodies made ready for formats without seams: closed B-spline faces split, kinks split, odd surfaces
turned into B-splines. Each face of the result knows the face it was made from.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from OCP.BRep import BRep_Tool
from OCP.Geom import Geom_BSplineCurve, Geom_BSplineSurface, Geom_Surface
from OCP.GeomAbs import GeomAbs_Shape
from OCP.OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.ShapeBuild import ShapeBuild_ReShape
from OCP.ShapeCustom import ShapeCustom
from OCP.ShapeUpgrade import ShapeUpgrade_ShapeDivideClosed, ShapeUpgrade_ShapeDivideContinuity
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of
from gondrel.core.kernel.geometry.basis import basis_of
from gondrel.core.kernel.geometry.continuity import curve_kink, surface_kink

__all__ = ["Prepared", "prepare"]

_ELEMENTARY = frozenset(
    ("Geom_Plane", "Geom_CylindricalSurface", "Geom_ConicalSurface", "Geom_SphericalSurface",
     "Geom_ToroidalSurface", "Geom_BSplineSurface")
)  # fmt: skip

_SMOOTH = 0.01
"""Angle in degrees up to which two pieces of a spline run on smoothly. Arcs as splines have knots at which
only the speed jumps; splitting there would make four faces of a cylinder."""

_LINES = (0.02, 0.15, 0.3, 0.5, 0.7, 0.85, 0.98)


@dataclass(frozen=True, slots=True)
class Prepared:
    """A shape made ready.

    Args:
        sources: for each of its faces, in order, the index of the given shape's face it is part of.
        changes: what was done to faces, in words.
    """

    shape: TopoDS_Shape
    sources: tuple[int, ...]
    changes: tuple[str, ...]


def prepare(shape: TopoDS_Shape) -> Prepared:
    """The shape with only elementary and B-spline surfaces, none of them closed or with a kink.

    Raises:
        KernelRefused: when the kernel fails over it.
    """
    sources = list(range(len(faces_of(shape))))
    before = _kinds(shape)
    changes: list[str] = []
    with kernel_call("making a body ready"):
        if any(type(basis_of(_surface(f))).__name__ not in _ELEMENTARY for f in faces_of(shape)):
            shape = ShapeCustom.ConvertToBSpline_s(shape, True, True, True, False)
            changes.append("surfaces of other kinds became B-splines")
        if any(_has_kink(f) for f in faces_of(shape)) or any(_is_kinked_edge(shape)):
            shape, sources = _split(shape, sources, _kinks)
            changes.append("faces were split at kinks")
        if any(_is_closed(f) for f in faces_of(shape)):
            shape, sources = _split(shape, sources, _closed)
            changes.append("closed B-spline faces were split in two")
    # where only edges were split, every face is what it was
    changes_made = tuple(changes) if _kinds(shape) != before else ()
    return Prepared(shape, tuple(sources), changes_made)


def _kinds(shape: TopoDS_Shape) -> Counter[str]:
    return Counter(type(basis_of(_surface(face))).__name__ for face in faces_of(shape))


def _surface(face: TopoDS_Face) -> Geom_Surface:
    return BRep_Tool.Surface_s(face)


def _has_kink(face: TopoDS_Face) -> bool:
    surface = basis_of(_surface(face))
    if not isinstance(surface, Geom_BSplineSurface) or surface.Continuity() != GeomAbs_Shape.GeomAbs_C0:
        return False
    return surface_kink(surface, face, _LINES)[0] > _SMOOTH


def _is_kinked_edge(shape: TopoDS_Shape) -> list[bool]:
    kinked = []
    for edge in edges_of(shape):
        if not BRep_Tool.Degenerated_s(edge):
            curve = BRep_Tool.Curve_s(edge, 0.0, 0.0)
            is_rough = (
                isinstance(curve, Geom_BSplineCurve) and curve.Continuity() == GeomAbs_Shape.GeomAbs_C0
            )
            kinked.append(is_rough and curve_kink(curve)[0] > _SMOOTH)
    return kinked


def _is_closed(face: TopoDS_Face) -> bool:
    """Whether a B-spline face has a seam: an edge that it uses twice."""
    if not isinstance(basis_of(_surface(face)), Geom_BSplineSurface):
        return False
    seen = ShapeMap()
    explorer = TopExp_Explorer(face, TopAbs_ShapeEnum.TopAbs_EDGE)
    while explorer.More():
        edge = explorer.Current()
        if seen.Contains(edge):
            return True
        seen.Add(edge)
        explorer.Next()
    return False


def _kinks(shape: TopoDS_Shape, context: ShapeBuild_ReShape) -> None:
    tool = ShapeUpgrade_ShapeDivideContinuity(shape)
    tool.SetBoundaryCriterion(GeomAbs_Shape.GeomAbs_C1)
    tool.SetSurfaceCriterion(GeomAbs_Shape.GeomAbs_C1)
    tool.SetContext(context)
    tool.Perform(False)


def _closed(shape: TopoDS_Shape, context: ShapeBuild_ReShape) -> None:
    for face in faces_of(shape):
        if _is_closed(face):
            tool = ShapeUpgrade_ShapeDivideClosed(face)
            tool.SetNbSplitPoints(1)
            tool.SetContext(context)
            tool.Perform(False)


def _split(shape: TopoDS_Shape, sources: list[int], act: object) -> tuple[TopoDS_Shape, list[int]]:
    """The shape after splitting, and whose part each face is, by the record of replacements."""
    context = ShapeBuild_ReShape()
    before = faces_of(shape)
    act(shape, context)  # type: ignore[operator]
    made = context.Apply(shape)
    order = ShapeMap()
    TopExp.MapShapes_s(made, TopAbs_ShapeEnum.TopAbs_FACE, order)
    origins = [-1] * order.Extent()
    for place, face in enumerate(before):
        for part in faces_of(context.Apply(face)):
            at = order.FindIndex(part)
            if at:
                origins[at - 1] = sources[place]
    return made, origins
