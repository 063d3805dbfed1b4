"""Elementary surfaces as plain figures: kind, frame and sizes of all of a body's at once.

Source: the parametrizations of plane, cylinder, cone, sphere and torus in ISO 10303-42.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.Geom import (
    Geom_ConicalSurface,
    Geom_CylindricalSurface,
    Geom_Plane,
    Geom_SphericalSurface,
    Geom_Surface,
    Geom_ToroidalSurface,
)

__all__ = [
    "CONE",
    "CYLINDER",
    "KINDS",
    "PLANE",
    "SPHERE",
    "TORUS",
    "ElementarySurfaces",
    "elementary_surfaces_of",
    "on_surfaces",
]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

PLANE, CYLINDER, CONE, SPHERE, TORUS = range(5)
KINDS = ("plane", "cylinder", "cone", "sphere", "torus")

_TYPES: tuple[tuple[type[Geom_Surface], Callable[[Any], tuple[float, float]]], ...] = (
    (Geom_Plane, lambda s: (0.0, 0.0)),
    (Geom_CylindricalSurface, lambda s: (s.Radius(), 0.0)),
    (Geom_ConicalSurface, lambda s: (s.RefRadius(), s.SemiAngle())),
    (Geom_SphericalSurface, lambda s: (s.Radius(), 0.0)),
    (Geom_ToroidalSurface, lambda s: (s.MajorRadius(), s.MinorRadius())),
)


@dataclass(frozen=True, slots=True)
class ElementarySurfaces:
    """A row for each surface.

    Args:
        kind: PLANE to TORUS, -1 for other surfaces; frame: origin and directions x, y, z, (n, 4, 3), mm;
            sizes: radius, or radius and half angle of a cone (rad), or both radii of a torus, (n, 2).
    """

    kind: Ints
    frame: Floats
    sizes: Floats

    def __getitem__(self, rows: Ints) -> ElementarySurfaces:
        return ElementarySurfaces(self.kind[rows], self.frame[rows], self.sizes[rows])


def elementary_surfaces_of(surfaces: Sequence[Geom_Surface | None]) -> ElementarySurfaces:
    """The forms of some surfaces, which are without trimming wrappers."""
    count = len(surfaces)
    kinds, frames, sizes = np.full(count, -1), np.zeros((count, 4, 3)), np.zeros((count, 2))
    for place, surface in enumerate(surfaces):
        for kind, (type_, sizes_of) in enumerate(_TYPES):
            if isinstance(surface, type_):
                kinds[place], sizes[place] = kind, sizes_of(surface)
                frame = surface.Position()  # type: ignore[attr-defined]
                ways = frame.Location(), frame.XDirection(), frame.YDirection(), frame.Direction()
                frames[place] = [way.Coord() for way in ways]
                break
    return ElementarySurfaces(kinds, frames, sizes)


def _cylinder(v: Floats, radius: Floats, _: Floats) -> tuple[Floats, Floats, Floats]:
    return radius + 0 * v, v, radius * v


def _cone(v: Floats, radius: Floats, angle: Floats) -> tuple[Floats, Floats, Floats]:
    rise = np.sin(angle)
    return radius + v * rise, v * np.cos(angle), radius * v + v * v * rise / 2


def _sphere(v: Floats, radius: Floats, _: Floats) -> tuple[Floats, Floats, Floats]:
    return radius * np.cos(v), radius * np.sin(v), radius * radius * np.sin(v)


def _torus(v: Floats, major: Floats, minor: Floats) -> tuple[Floats, Floats, Floats]:
    around = minor * np.sin(v)
    return major + minor * np.cos(v), around, minor * (major * v + around)


_ROUND = {CYLINDER: _cylinder, CONE: _cone, SPHERE: _sphere, TORUS: _torus}
"""Distance from the axis, height, and the area that v sweeps in a radian of u: its integral over v, as in
cylindrical equal-area maps."""

_APEX = 1e-9


def on_surfaces(flat: Floats, forms: ElementarySurfaces) -> tuple[Floats, Floats]:
    """Points in space and laid out true to area, of parameters on surfaces.

    Args:
        flat: parameters u, v, (n, m, 2); forms: of n surfaces.

    Returns: (n, m, 3), mm, and (n, m, 2) whose plane areas are those on the surface, mm2; not a number
    for other surfaces, the second also beyond a pole or apex, where a surface is run through again.
    """
    points, lay = np.full((*flat.shape[:2], 3), np.nan), flat.copy()
    plane = forms.kind == PLANE
    points[plane] = _in_frames(flat[plane], forms.frame[plane], 2)
    for kind, form in _ROUND.items():
        some = forms.kind == kind
        u, v, sizes = flat[some, :, 0], flat[some, :, 1], forms.sizes[some]
        away, height, swept = form(v, sizes[:, :1], sizes[:, 1:])
        ways = np.stack([away * np.cos(u), away * np.sin(u), height], axis=2)
        points[some] = _in_frames(ways, forms.frame[some], 3)
        lay[some, :, 1] = np.where(away.min(axis=1, keepdims=True) >= -_APEX, swept, np.nan)
    return points, lay


def _in_frames(ways: Floats, frames: Floats, count: int) -> Floats:
    points: Floats = frames[:, None, 0] + np.matmul(ways, frames[:, 1 : 1 + count])
    return points
