"""Measures of a B-rep: volume, area, inertia, counts and tolerances."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepGProp import BRepGProp
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAdaptor import GeomAdaptor_Surface
from OCP.GProp import GProp_GProps
from OCP.ShapeAnalysis import ShapeAnalysis_ShapeTolerance
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.calls import kernel_call
from gondrel.core.kernel.base.shape import edges_of, faces_of, kind_of, vertices_of
from gondrel.core.model.body import BodyFacts, BodyKind
from gondrel.core.work.halves import in_halves

__all__ = [
    "FINE_ERROR",
    "INTEGRATION_ERROR",
    "area_of",
    "box_of",
    "diagonal_of",
    "exact_area_of",
    "integrated",
    "kind_of_surface",
    "measure",
    "surface_kind",
]

INTEGRATION_ERROR = 1e-8
"""Relative error asked of the kernel's adaptive integration of the volume."""


FINE_ERROR = 1e-10
"""The same where it costs little; on splines the integration is a thousand times off what it is asked."""

_TIGHT = 1e-7
"""Tolerance, mm, that every edge has."""

_LENGTH_ERROR = 1e-6

Said = tuple[float, float] | None

_FEW_FACES = 200
"""Number of faces up to which a body is measured finely."""

_MANY_FACES = 4000
"""Number of faces from which on a copy of the process is worth its beginning."""


def surface_kind(face: TopoDS_Face) -> str:
    """The kind of surface a face lies on: plane, cylinder, cone, sphere, torus, bspline, ..."""
    return kind_of_surface(BRepAdaptor_Surface(face, False))


def kind_of_surface(surface: BRepAdaptor_Surface | GeomAdaptor_Surface) -> str:
    """As surface_kind, of a surface."""
    name: str = surface.GetType().name
    word = name.removeprefix("GeomAbs_").removesuffix("Surface").removeprefix("SurfaceOf").lower()
    return "bspline" if word == "bezier" else word  # the one is the other without inner knots


def _bbox(shape: TopoDS_Shape) -> tuple[float, float, float, float, float, float]:
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    if box.IsVoid():
        return (0.0,) * 6
    box.SetGap(0.0)
    low, high = box.CornerMin(), box.CornerMax()
    return (low.X(), low.Y(), low.Z(), high.X(), high.Y(), high.Z())


def area_of(face: TopoDS_Face) -> float:
    """The area of a face by the kernel's integration, mm2. Call it inside kernel_call."""
    figures = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, figures)
    return float(figures.Mass())


def exact_area_of(shape: TopoDS_Shape) -> float:
    """The area of a face or body by the kernel's adaptive integration, mm2. Call it inside kernel_call."""
    figures = GProp_GProps()
    BRepGProp.SurfaceProperties_s(shape, figures, FINE_ERROR)
    return float(figures.Mass())


def box_of(shape: TopoDS_Shape) -> tuple[float, float, float, float, float, float]:
    """A quick bounding box without triangles, not quite tight but never too small, mm."""
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box, False)
    if box.IsVoid():
        return (0.0,) * 6
    return (*box.CornerMin().Coord(), *box.CornerMax().Coord())


def diagonal_of(shape: TopoDS_Shape) -> float:
    """Diagonal of a quick, not quite tight bounding box, mm."""
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    return 0.0 if box.IsVoid() else float(box.SquareExtent() ** 0.5)


class _Moments(NamedTuple):
    """What the kernel integrates, as plain numbers that can go between processes."""

    mass: float
    centre: tuple[float, float, float]
    matrix: tuple[float, ...]


def _moments(figures: GProp_GProps) -> _Moments:
    matrix = figures.MatrixOfInertia()
    rows = tuple(float(matrix.Value(r, c)) for r in (1, 2, 3) for c in (1, 2, 3))
    return _Moments(float(figures.Mass()), figures.CentreOfMass().Coord(), rows)


_NOTHING = _Moments(0.0, (0.0, 0.0, 0.0), (0.0,) * 9)


def _properties(
    shape: TopoDS_Shape, kind: BodyKind, said: Said, faces: int
) -> tuple[float, float, float, _Moments]:
    """Volume, area, edge length, and the moments that centroid and inertia are taken from.

    Of a body with very many faces a copy of this process integrates the one while this does the other.
    """
    areas, volumes = ([figure] for figure in said) if said is not None else ([], [])
    is_small = faces <= _FEW_FACES

    def areal() -> _Moments:
        error = FINE_ERROR if is_small else 10 * INTEGRATION_ERROR
        return _moments(integrated(BRepGProp.SurfaceProperties_s, shape, error, areas)[0])

    def solid() -> _Moments:
        error = FINE_ERROR if is_small else INTEGRATION_ERROR
        volume, is_quick = integrated(BRepGProp.VolumeProperties_s, shape, error, volumes)
        return _moments(_smoothly(shape, volume) if is_small and not is_quick else volume)

    wanted = {BodyKind.SOLID: (areal, solid), BodyKind.SHEET: (areal,)}.get(kind, ())

    def integrate(first: int, behind: int) -> list[_Moments]:
        return [act() for act in wanted[first:behind]]

    halves = in_halves(len(wanted), integrate, worth=2 if faces >= _MANY_FACES else 3)
    found = [each for half in halves for each in half]
    length = GProp_GProps()
    BRepGProp.LinearProperties_s(shape, length, True)
    surface, volume, *_ = (*found, _NOTHING, _NOTHING)
    chosen = found[-1] if found else _moments(length)
    return volume.mass, surface.mass, float(length.Mass()), chosen


def _smoothly(shape: TopoDS_Shape, adaptive: GProp_GProps) -> GProp_GProps:
    """The moments by a fixed Gauss rule, where that finds the same volume: the adaptive rule answers for
    the volume only, and its moments of a plain ring were seen to be 2e-9 off."""
    fixed = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, fixed)
    return fixed if _agrees(fixed.Mass(), [adaptive.Mass()]) else adaptive


def integrated(
    rule: Callable[..., object], shape: TopoDS_Shape, error: float, known: Sequence[float] = ()
) -> tuple[GProp_GProps, bool]:
    """Properties of a shape by the kernel's quick rule where that finds one of some figures to 1e-10, else
    by its adaptive one; and whether by the quick one. Call it inside kernel_call.

    Args:
        rule: of the kernel, of surfaces or volumes; error: relative, asked of the adaptive one.
        known: figures that others have found, rising.
    """
    figures = GProp_GProps()
    if known:
        rule(shape, figures)
        if _agrees(figures.Mass(), known):
            return figures, True
        figures = GProp_GProps()
    rule(shape, figures, error)
    return figures, False


def _agrees(figure: float, known: Sequence[float]) -> bool:
    at = bisect_left(known, figure - FINE_ERROR * abs(figure))
    return at < len(known) and abs(known[at] - figure) <= FINE_ERROR * abs(known[at])


def measure(shape: TopoDS_Shape, said: Said = None) -> BodyFacts:
    """Measure one body. Lengths in mm, in the body's own frame.

    Volume, area and moments are integrated by the kernel over the exact surfaces to a relative
    error of 1e-8 (area 1e-7; both 1e-10 up to 200 faces), not over triangles. Where its quick rule finds
    to 1e-10 what somebody else has found, that will do. Raises KernelRefused.

    Args:
        said: area and volume of the body by someone who has not seen the shape, as from a file's records.

    Source: divergence theorem over the bounding faces, as the kernel documents its integration.
    """
    with kernel_call("measuring a body"):
        kind = kind_of(shape)
        faces = faces_of(shape)
        volume, area, length, moments = _properties(shape, kind, said, len(faces))
        rows = np.array(moments.matrix).reshape(3, 3)
        principal = np.linalg.eigvalsh((rows + rows.T) / 2)
        tolerance = ShapeAnalysis_ShapeTolerance()
        worst = max(
            tolerance.Tolerance(shape, 1, TopAbs_ShapeEnum.TopAbs_EDGE),
            tolerance.Tolerance(shape, 1, TopAbs_ShapeEnum.TopAbs_VERTEX),
        )
        vertices, edges = vertices_of(shape), edges_of(shape)
        centroid = moments.centre
        box = _bbox(shape)
        if kind is BodyKind.POINT:
            centroid = (box[0], box[1], box[2])
        return BodyFacts(
            volume=volume,
            area=area,
            centroid=centroid,
            inertia=(float(principal[0]), float(principal[1]), float(principal[2])),
            inertia_matrix=moments.matrix,
            bbox=box,
            faces=len(faces),
            edges=len(edges),
            vertices=len(vertices),
            surfaces=tuple(sorted(Counter(surface_kind(face) for face in faces).items())),
            tolerance=worst,
            length=length,
            strip=_strip(edges, vertices, length),
        )


def _strip(edges: Iterable[TopoDS_Shape], vertices: Iterable[TopoDS_Shape], length: float) -> float:
    """What tolerances leave open, mm2: twice each along its edge, and a disc round each vertex."""
    total = 2 * _TIGHT * length
    for edge in map(TopoDS.Edge, edges):
        tolerance = BRep_Tool.Tolerance_s(edge)
        if tolerance > _TIGHT and not BRep_Tool.Degenerated_s(edge):
            along = GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(edge), _LENGTH_ERROR)
            total += 2 * (tolerance - _TIGHT) * along
    widths = [BRep_Tool.Tolerance_s(TopoDS.Vertex(vertex)) for vertex in vertices]
    return float(total + np.pi * sum(width**2 for width in widths))
