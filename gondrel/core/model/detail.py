"""What single faces and edges of a body are: kind and size, for saying so on screen and in reports."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass

__all__ = ["BodyDetail", "Complexity", "EdgeDetail", "FaceDetail", "field_kind"]


@dataclass(frozen=True, slots=True)
class FaceDetail:
    """One face.

    Args:
        kind: plane, cylinder, cone, sphere, torus, bspline, ...
        area: mm2.
        sizes: mm, by kind: diameter of a cylinder or sphere; the two diameters of a torus (of its
            centre line and of its tube); none otherwise.
        angle: half angle of a cone, rad, 0 otherwise.
    """

    kind: str
    area: float
    sizes: tuple[float, ...] = ()
    angle: float = 0.0


@dataclass(frozen=True, slots=True)
class EdgeDetail:
    """One edge: kind of curve (line, circle, ellipse, bspline, ...), length in mm, diameter of a circle."""

    kind: str
    length: float
    diameter: float = 0.0


@dataclass(frozen=True, slots=True)
class BodyDetail:
    """All faces and edges of a body in the order of its B-rep, column by column.

    Columns pass between processes many times faster than an object for every face.
    """

    face_kinds: tuple[str, ...]
    face_areas: tuple[float, ...]
    face_sizes: tuple[tuple[float, ...], ...]
    face_angles: tuple[float, ...]
    edge_kinds: tuple[str, ...]
    edge_lengths: tuple[float, ...]
    edge_diameters: tuple[float, ...]

    @classmethod
    def of(cls, faces: Sequence[FaceDetail], edges: Sequence[EdgeDetail]) -> BodyDetail:
        """The columns of some faces and edges."""
        return cls(
            tuple(f.kind for f in faces),
            tuple(f.area for f in faces),
            tuple(f.sizes for f in faces),
            tuple(f.angle for f in faces),
            tuple(e.kind for e in edges),
            tuple(e.length for e in edges),
            tuple(e.diameter for e in edges),
        )

    def face(self, index: int) -> FaceDetail | None:
        """One face, None when there is no such face."""
        if not 0 <= index < len(self.face_kinds):
            return None
        return FaceDetail(
            self.face_kinds[index], self.face_areas[index], self.face_sizes[index], self.face_angles[index]
        )

    def edge(self, index: int) -> EdgeDetail | None:
        """One edge, None when there is no such edge."""
        if not 0 <= index < len(self.edge_kinds):
            return None
        return EdgeDetail(self.edge_kinds[index], self.edge_lengths[index], self.edge_diameters[index])


def field_kind(others: Sequence[str]) -> str:
    """Under which kind the store keeps the deviation of a body's mesh from other bodies (their hashes)."""
    if len(others) == 1:
        return f"off-{others[0][:24]}"
    return f"off-all-{hashlib.sha256(' '.join(others).encode()).hexdigest()[:24]}"


@dataclass(frozen=True, slots=True)
class Complexity:
    """What a receiving system may not take of a body.

    Args:
        degree: largest degree of a spline curve or surface, 0 where there is none; shells: how many.
    """

    degree: int
    shells: int
