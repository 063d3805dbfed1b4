"""The surface that lies beneath its trimming."""

from __future__ import annotations

from OCP.Geom import Geom_RectangularTrimmedSurface, Geom_Surface

__all__ = ["basis_of"]


def basis_of(surface: Geom_Surface) -> Geom_Surface:
    """A surface without trimming wrappers."""
    while isinstance(surface, Geom_RectangularTrimmedSurface):
        surface = surface.BasisSurface()
    return surface
