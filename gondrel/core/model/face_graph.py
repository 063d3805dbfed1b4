"""The faces of a solid and how they meet, as plain figures: what features are recognised by."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from functools import cached_property

from gondrel.core.model.geometry import Vector

__all__ = ["FaceGraph", "FaceMeeting", "HelixEdge", "SolidFace"]


@dataclass(frozen=True, slots=True)
class SolidFace:
    """A face of a solid; mm and rad, figures it has none of are 0.

    Args:
        index: in the order of the B-rep; kind: plane, cylinder, cone, sphere, torus or other.
        at, way: a point of the axis and its direction; of a plane a point of it and its outer normal.
        radius: of a cylinder, sphere or the middle of a torus, of a cone at `at`; minor: of a torus's tube.
        angle: half angle of a cone, above zero where it widens along `way`.
        is_hollow: whether the material lies outside a round face, as round a hole.
        low, high: from where to where it reaches along `way` from `at`; sweep: how far it goes round.
        centre: its centre of area.
    """

    index: int
    kind: str
    at: Vector
    way: Vector
    radius: float
    minor: float
    angle: float
    is_hollow: bool
    low: float
    high: float
    sweep: float
    area: float
    centre: Vector


@dataclass(frozen=True, slots=True)
class FaceMeeting:
    """An edge between two faces.

    Args:
        turn: by which angle the outer normal turns over it: above zero where the edge stands out of the
            material, below where it lies in a corner, near zero where the faces run on smoothly.
        kind: line, circle or other; radius, at, way: of a circle, its centre and axis; of a line way is its
            direction and at one end.
    """

    edge: int
    faces: tuple[int, int]
    turn: float
    kind: str
    length: float
    radius: float
    at: Vector
    way: Vector


@dataclass(frozen=True, slots=True)
class HelixEdge:
    """An edge that winds round an axis: diameter and rise for each turn, mm, how many turns, a point of it
    and the direction of its axis."""

    diameter: float
    pitch: float
    turns: float
    at: Vector
    way: Vector


@dataclass(frozen=True)
class FaceGraph:
    """The faces of a solid and the edges between them, and edges that are helices."""

    faces: tuple[SolidFace, ...]
    meetings: tuple[FaceMeeting, ...]
    helices: tuple[HelixEdge, ...] = ()

    @cached_property
    def of_face(self) -> dict[int, list[FaceMeeting]]:
        """The edges of each face that another face shares."""
        found: defaultdict[int, list[FaceMeeting]] = defaultdict(list)
        for meeting in self.meetings:
            for face in meeting.faces:
                found[face].append(meeting)
        return dict(found)

    def beside(self, face: int) -> list[tuple[int, FaceMeeting]]:
        """The faces beside one, each with the edge between."""
        return [
            (meeting.faces[1] if meeting.faces[0] == face else meeting.faces[0], meeting)
            for meeting in self.of_face.get(face, ())
        ]
