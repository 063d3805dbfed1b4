"""The faces and edges of a file as columns of numbers, whatever format they come from.

Lengths mm, angles rad. A face lies to the left of its loops seen against its normal (ISO 10303-42,
face_bound); the loops stand in the order and direction in which they are run through.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from gondrel.core.integral.splines import SplinePath

if TYPE_CHECKING:
    from gondrel.core.integral.patches import Patch

__all__ = [
    "ARC",
    "CONE",
    "CYLINDER",
    "LINE",
    "OTHER",
    "PLANE",
    "SPHERE",
    "SPLINE",
    "TORUS",
    "EdgeTable",
    "FaceTable",
]

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

OTHER, PLANE, CYLINDER, CONE, SPHERE, TORUS = range(6)
LINE, ARC, SPLINE = 1, 2, 3


@dataclass(frozen=True, slots=True)
class EdgeTable:
    """Edges, each run from its start to its end.

    Args:
        kind: (n,) LINE, ARC, SPLINE, or OTHER for a curve that is not known here.
        ends: (n, 2, 3) the points where it starts and ends.
        frame: (n, 3, 3) centre, and the radii along both axes as vectors, of an ARC.
        span: (n, 2) angles at which an ARC starts and ends, the second less when it runs backwards.
        splines: the paths of SPLINE edges by index.
    """

    kind: Ints
    ends: Floats
    frame: Floats
    span: Floats
    splines: Mapping[int, SplinePath]

    def __len__(self) -> int:
        return len(self.kind)


@dataclass(frozen=True, slots=True)
class FaceTable:
    """Faces with their loops.

    Args:
        kind: (n,) PLANE ... TORUS, or OTHER for a surface that is not known here.
        frame: (n, 4, 3) origin, then the x, y and z axes; a cone's origin is its apex.
        sizes: (n, 2) radius; sine of a cone's half angle; major and minor radius of a torus.
        sense: (n,) 1 where the face's normal leads away from the axis (along z), else -1.
        face, loop, edge, way: columns of the coedges in the order they are run through: their face,
            their loop (counted through the table), their edge, 1 along it or -1 against.
        numbers: (n,) what the face is called in the file.
        patches: makes the surface of a face of kind OTHER, by its row, as far as some points of it reach.
    """

    kind: Ints
    frame: Floats
    sizes: Floats
    sense: Ints
    face: Ints
    loop: Ints
    edge: Ints
    way: Ints
    edges: EdgeTable
    numbers: Ints = field(default_factory=lambda: np.zeros(0, np.int64))
    patches: Mapping[int, Callable[[Floats], Patch | None]] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.kind)
