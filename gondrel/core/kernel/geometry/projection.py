"""How far points lie off surfaces, all of an edge's at once.

Planes, cylinders, cones, spheres and tori by their closed forms, other surfaces by projecting each point.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.Geom import (
    Geom_ConicalSurface,
    Geom_CylindricalSurface,
    Geom_ElementarySurface,
    Geom_Plane,
    Geom_RectangularTrimmedSurface,
    Geom_SphericalSurface,
    Geom_Surface,
    Geom_ToroidalSurface,
)
from OCP.gp import gp_Pnt
from OCP.ShapeAnalysis import ShapeAnalysis_Surface

from gondrel.core.kernel.geometry.elementary import PLANE, ElementarySurfaces

__all__ = ["feet_beyond", "feet_on"]

Floats = NDArray[np.float64]
Feet = Callable[[Floats], Floats]

_ACCURACY = 1e-7
_CHUNK = 4096


def feet_beyond(
    surfaces: Sequence[Geom_Surface | None],
    forms: ElementarySurfaces,
    pairs: NDArray[np.int64],
    samples: Floats,
    least: float,
) -> Iterator[tuple[int, Floats]]:
    """Pairs of edge and face where the edge lies off the face's surface.

    Args:
        surfaces: of the faces; forms: the elementary ones among them; pairs: (n, 2) of edge and face;
            samples: points along all edges, (edges, points, 3), mm; least: distance in mm below which an
            edge lies on a surface.

    Returns: for each such pair its row and the feet of the edge's points on the surface, (points, 3).
    """
    is_plane = forms.kind[pairs[:, 1]] == PLANE
    origins, normals = forms.frame[:, 0], forms.frame[:, 3]
    rows = np.flatnonzero(is_plane)
    for chunk in np.array_split(rows, max(len(rows) // _CHUNK, 1)):
        points = samples[pairs[chunk, 0]]
        origin, normal = origins[pairs[chunk, 1]], normals[pairs[chunk, 1]]
        heights = np.einsum("npk,nk->np", points - origin[:, None], normal)
        for place in np.flatnonzero(np.abs(heights).max(axis=1, initial=0.0) >= least).tolist():
            yield int(chunk[place]), points[place] - np.outer(heights[place], normal[place])
    by_face: dict[int, list[int]] = {}
    for row in np.flatnonzero(~is_plane).tolist():
        by_face.setdefault(int(pairs[row, 1]), []).append(row)
    for face, numbers in by_face.items():
        surface = surfaces[face]
        if surface is None:
            continue
        points = samples[pairs[numbers, 0]]
        feet = feet_on(surface)(points.reshape(-1, 3)).reshape(points.shape)
        away = np.linalg.norm(points - feet, axis=2).max(axis=1)
        for place in np.flatnonzero(away >= least).tolist():
            yield numbers[place], feet[place]


def feet_on(surface: Geom_Surface) -> Feet:
    """A function from points (n, 3) to their foot points on a surface (n, 3), mm.

    Source: closed forms of analytic geometry; the kernel's projection for the rest.
    """
    while isinstance(surface, Geom_RectangularTrimmedSurface):
        surface = surface.BasisSurface()
    if isinstance(surface, Geom_ElementarySurface):
        frame = surface.Position()
        origin = np.array(frame.Location().Coord())
        axis = np.array(frame.Direction().Coord())
        if isinstance(surface, Geom_Plane):
            return lambda points: points - np.outer((points - origin) @ axis, axis)
        if isinstance(surface, Geom_SphericalSurface):
            return lambda points: _towards(points, np.broadcast_to(origin, points.shape), surface.Radius())
        if isinstance(surface, Geom_CylindricalSurface):
            return lambda points: _towards(points, _on_axis(points, origin, axis), surface.Radius())
        if isinstance(surface, Geom_ToroidalSurface) and surface.MajorRadius() > surface.MinorRadius():
            return lambda points: _on_torus(
                points, origin, axis, surface.MajorRadius(), surface.MinorRadius()
            )
        if isinstance(surface, Geom_ConicalSurface) and surface.Apex().Distance(frame.Location()) > 0:
            return lambda points: _on_cone(points, surface)
    project = ShapeAnalysis_Surface(surface)
    return lambda points: np.array(
        [project.Value(project.ValueOfUV(gp_Pnt(*p), _ACCURACY)).Coord() for p in points.tolist()]
    )


def _on_axis(points: Floats, origin: Floats, axis: Floats) -> Floats:
    feet: Floats = origin + np.outer((points - origin) @ axis, axis)
    return feet


def _towards(points: Floats, centres: Floats, radius: float) -> Floats:
    """Points at a radius from their centres, in the direction of given points."""
    away = points - centres
    sizes = np.linalg.norm(away, axis=1)
    units = np.where(sizes[:, None] > 0, away / np.maximum(sizes, 1e-300)[:, None], (1.0, 0.0, 0.0))
    feet: Floats = centres + radius * units
    return feet


def _on_torus(points: Floats, origin: Floats, axis: Floats, major: float, minor: float) -> Floats:
    heights = (points - origin) @ axis
    flat = points - np.outer(heights, axis)
    return _towards(points, _towards(flat, np.broadcast_to(origin, points.shape), major), minor)


def _on_cone(points: Floats, surface: Geom_ConicalSurface) -> Floats:
    """Feet on the sheet of a cone that the points lie nearest to, in the plane through the axis."""
    frame = surface.Position()
    origin, axis = np.array(frame.Location().Coord()), np.array(frame.Direction().Coord())
    angle, radius = surface.SemiAngle(), surface.RefRadius()
    apex = origin - axis * radius / np.tan(angle)
    heights = (points - apex) @ axis
    flat = points - apex - np.outer(heights, axis)
    radii = np.linalg.norm(flat, axis=1)
    units = np.where(radii[:, None] > 0, flat / np.maximum(radii, 1e-300)[:, None], (1.0, 0.0, 0.0))
    sign = np.where(heights < 0, -1.0, 1.0) * np.sign(angle)
    along_r, along_h = np.sin(abs(angle)) * np.ones_like(sign), np.cos(angle) * sign * np.sign(angle)
    share = radii * along_r + heights * along_h
    feet: Floats = apex + share[:, None] * (along_r[:, None] * units + np.outer(along_h, axis))
    return feet
