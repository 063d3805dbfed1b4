"""What an inspection tells of single edges, faces, gaps and splines: mm, mm2, degrees."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["EdgeRecord", "FaceRecord", "Gap", "Point", "SplineRecord"]

Point = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class EdgeRecord:
    """One edge.

    Args:
        coedges: (face, whether it runs forward there); a seam is used twice by one face.
        ends: its first and last vertex, equal for a closed one; middle: a point half way.
        off_ends: how far its curve ends lie from those vertices; end_points: where its curve ends.
    """

    index: int
    length: float
    kind: str
    coedges: tuple[tuple[int, bool], ...]
    ends: tuple[int, int]
    middle: Point
    tolerance: float
    off_ends: float
    is_degenerate: bool
    end_points: tuple[Point, Point] = ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))


@dataclass(frozen=True, slots=True)
class FaceRecord:
    """One face.

    Args:
        area: to a ten-thousandth; perimeter: summed length of its edges; is_valid: whether its loops,
            edges and surface fit together; flaw: what is wrong with its loops, in a word.
    """

    index: int
    kind: str
    area: float
    perimeter: float
    is_valid: bool
    flaw: str

    @property
    def width(self) -> float:
        """Its mean width, mm: twice the area by the perimeter; 0 without edges."""
        return 2 * abs(self.area) / self.perimeter if self.perimeter > 0 else 0.0


@dataclass(frozen=True, slots=True)
class Gap:
    """How far an edge lies off the surface of one of its faces, and where most.

    Args:
        feet: where points evenly spread along the edge come to lie on the surface, (n, 3), mm; none where
            the edge lies on it.
    """

    edge: int
    face: int
    distance: float
    at: Point
    feet: NDArray[np.float64] | None = None


@dataclass(frozen=True, slots=True)
class SplineRecord:
    """A B-spline curve (of an edge) or surface (of a face).

    Args:
        kink: largest turn of the tangent inside it, degrees, and kink_at where, mm; closest: least
            distance of neighbouring knots as a share of the whole range; poles, degree: the largest
            of both directions.
    """

    index: int
    is_face: bool
    degree: int
    poles: int
    kink: float
    kink_at: Point
    closest: float
    middle: Point
