"""Polygons in space as triangles."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

__all__ = ["triangles_of_polygon"]


def triangles_of_polygon(points: NDArray[np.float64]) -> list[tuple[int, int, int]]:
    """Triangles (indices into points) of a simple, about plane polygon (n, 3), turned as it is.

    They are those of its constrained Delaunay triangulation in the plane it is nearest to; a polygon that
    crosses or touches itself is cut as a fan.
    """
    count = len(points)
    fan = [(0, i, i + 1) for i in range(1, count - 1)]
    normal = np.cross(points, np.roll(points, -1, axis=0)).sum(axis=0)
    if not float(np.linalg.norm(normal)) > 0.0:
        return fan
    along = int(np.argmax(np.abs(normal)))
    flat = np.delete(points, along, axis=1)
    if (normal[along] > 0) == (along == 1):
        flat = flat * (1, -1)  # so that it is run anticlockwise
    place = {(x, y): index for index, (x, y) in enumerate(flat.tolist())}
    shape = shapely.Polygon(flat)
    if count == 3 or len(place) < count or not shape.is_valid:
        return fan
    triangles = []
    for triangle in shapely.get_parts(shapely.constrained_delaunay_triangles(shape)):
        corners = [place.get((x, y)) for x, y in shapely.get_coordinates(triangle)[:3].tolist()]
        if None in corners:
            return fan
        a, b, c = (corner for corner in corners if corner is not None)
        (x1, y1), (x2, y2) = flat[b] - flat[a], flat[c] - flat[a]
        turn = x1 * y2 - y1 * x2
        triangles.append((a, b, c) if turn > 0 else (a, c, b))
    return triangles
