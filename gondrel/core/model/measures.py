"""What was measured on a model: sections, distances, holes, walls, masses."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass

from gondrel.core.model.cutting import CutPlane, Vector
from gondrel.core.model.product import IDENTITY, Placement

__all__ = [
    "Apart",
    "BodySection",
    "Clearance",
    "HoleRow",
    "Mass",
    "Measured",
    "PlacedSection",
    "RoundHole",
    "Size",
    "Thickness",
    "Thing",
    "Wish",
    "section_kind",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class BodySection:
    """Where a plane cuts a body.

    Args:
        key: hash of the body that the cut faces make, or of the lines cut of a sheet; empty where the plane
            misses it.
        area: of the cut faces, mm2; perimeter: length of their rims or of the lines, mm.
    """

    key: str
    area: float
    perimeter: float


def section_kind(plane: CutPlane, limits: Sequence[CutPlane]) -> str:
    """Under what the section of a body is kept beside it."""
    said = repr([(p.point, tuple(p.unit.tolist())) for p in (plane, *limits)])
    return f"section-{hashlib.sha256(said.encode()).hexdigest()[:32]}"


@dataclass(frozen=True, slots=True)
class PlacedSection:
    """The section of a body in its place.

    Args:
        product: id of its part; path: occurrence ids; body: id; plane: which of the planes cuts.
        placement: of the body, and so of the cut faces, in the whole.
        area, perimeter: as placed, mm2 and mm.
    """

    product: str
    path: tuple[str, ...]
    body: str
    plane: int
    placement: Placement
    key: str
    area: float
    perimeter: float


@dataclass(frozen=True, slots=True)
class Thing:
    """Something that is measured.

    Args:
        kind: "body", "face", "edge", "vertex", "axis" (of a face or edge) or "point".
        key: hash of its body; index: of the face, edge or vertex in the order of the B-rep; for an
            axis that of the face, or of the edge where `of_edge`.
        placement: of the body in the whole; point: of a point, mm, in the whole; a vertex without an
            index is the one nearest to it.
        name: what people call it.
    """

    kind: str
    key: str = ""
    index: int = -1
    placement: Placement = IDENTITY
    point: Vector = (0.0, 0.0, 0.0)
    of_edge: bool = False
    name: str = ""


@dataclass(frozen=True, slots=True)
class Size:
    """The measures of one thing, in mm, mm2, mm3 and rad; None where it has none.

    Args:
        what: kind of curve or surface, "point" or "body"; at: a point, the centre of a circle or sphere,
            or a point of an axis; direction: of a line, an axis or the normal of a plane.
        minor: radius of the tube of a torus, narrow radius of an ellipse; angle: half angle of a cone,
            swept angle of an arc of a circle.
    """

    what: str
    length: float | None = None
    radius: float | None = None
    minor: float | None = None
    angle: float | None = None
    area: float | None = None
    volume: float | None = None
    at: Vector | None = None
    direction: Vector | None = None


@dataclass(frozen=True, slots=True)
class Apart:
    """How two things stand to one another.

    Args:
        distance: the least, mm; points: where it is, on the first and on the second.
        angle: between lines, axes and planes, rad, 0 to a right angle; None where there is none.
    """

    distance: float
    points: tuple[Vector, Vector]
    angle: float | None = None

    @property
    def along(self) -> Vector:
        """From the first to the second along X, Y and Z, mm."""
        a, b = self.points
        return (b[0] - a[0], b[1] - a[1], b[2] - a[2])


@dataclass(frozen=True, slots=True)
class Clearance:
    """The least distance between two sets of bodies in their places.

    Args:
        items: what of each set is nearest: product id and path. Two that overlap are 0 apart.
    """

    distance: float
    points: tuple[Vector, Vector]
    items: tuple[tuple[str, tuple[str, ...]], tuple[str, tuple[str, ...]]]


@dataclass(frozen=True, slots=True)
class RoundHole:
    """One round hole of a body, in its frame.

    Args:
        point: where its axis enters the material; direction: of the axis, into it.
        depth: of the round wall along the axis, mm; is_through: whether it is open at both ends.
    """

    diameter: float
    depth: float
    point: Vector
    direction: Vector
    is_through: bool
    faces: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class HoleRow:
    """Equal holes of one part: same size, depth and direction.

    Args:
        product: id; body: hash; holes: each with its own axis, in the frame of the part.
    """

    product: str
    body: str
    holes: tuple[RoundHole, ...]


@dataclass(frozen=True, slots=True)
class Thickness:
    """The wall of a body.

    Args:
        least: mm, None where no wall was met; points: from one side of it to the other, in the frame of
            the body.
        measured: at how many places.
    """

    least: float | None
    points: tuple[Vector, Vector]
    measured: int


@dataclass(frozen=True, slots=True)
class Mass:
    """Mass properties of something placed.

    Args:
        mass: kg; centre: of gravity, mm; inertia: row-major 3x3 about it along the axes of the
            whole, kg mm2; all None where a density is missing.
        volume: mm3; area: mm2; without: names of the parts without a density.
    """

    mass: float | None
    centre: Vector | None
    inertia: tuple[float, ...] | None
    volume: float
    area: float
    without: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Wish:
    """What is to be measured of a file.

    Args:
        section: planes that cut, of which each takes the side of its normal away.
        outline: where the outlines of the section go as DXF or SVG, empty for nowhere.
        clearance: two queries; thickness: a query, None for not; items: queries of what is weighed and
            whose holes are listed, none for everything.
    """

    section: tuple[CutPlane, ...] = ()
    clearance: tuple[str, str] | None = None
    thickness: str | None = None
    holes: bool = False
    mass: bool = False
    items: tuple[str, ...] = ()
    outline: str = ""


@dataclass(frozen=True, slots=True)
class Measured:
    """One or two things: the sizes of each, and how they stand to one another where there are two."""

    sizes: tuple[Size, ...]
    apart: Apart | None = None
