"""Closed regions of a drawing, and what keeps a drawing from having them."""

from __future__ import annotations

from dataclasses import dataclass

from gondrel.core.model.outline import Curve, Point

__all__ = ["BLOCKS", "Amiss", "Loop", "Making", "Profile", "ProfileWish", "Region"]


BLOCKS = ("dissolved", "placed", "none")
"""What becomes of blocks of a drawing: they go among the rest, each by itself, or not at all."""


@dataclass(frozen=True, slots=True)
class Loop:
    """A closed run of curves.

    Args:
        curves: numbers of the profile's curves, in their order, and whether each is run backwards.
        area: mm2, more than 0 where it runs anticlockwise; length: mm.
    """

    curves: tuple[tuple[int, bool], ...]
    area: float
    length: float


@dataclass(frozen=True, slots=True)
class Region:
    """A closed region: its rim, anticlockwise, and its holes, clockwise."""

    rim: Loop
    holes: tuple[Loop, ...] = ()

    @property
    def area(self) -> float:
        """Without the holes, mm2."""
        return self.rim.area + sum(hole.area for hole in self.holes)

    @property
    def perimeter(self) -> float:
        """Of the rim and all holes, mm."""
        return self.rim.length + sum(hole.length for hole in self.holes)

    @property
    def loops(self) -> tuple[Loop, ...]:
        """The rim, then the holes."""
        return (self.rim, *self.holes)


@dataclass(frozen=True, slots=True)
class Amiss:
    """A place where a drawing is not closed, drawn twice, or crosses itself.

    Args:
        kind: open, double or crossing; curves: numbers.
    """

    kind: str
    point: Point
    curves: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Profile:
    """Curves with their regions.

    Args:
        curves: mm, their ends brought together where they were near; sources: which curve of the drawing
            each was.
        nodes: points where curves meet or end; ends: numbers of the nodes of each curve, -1 twice where it
            is closed in itself.
        within: how near ends had to be, mm; widest: of the gaps that were closed, mm.
        regions: largest first; amiss: what is open, double or crossing.
    """

    curves: tuple[Curve, ...]
    sources: tuple[int, ...]
    nodes: tuple[Point, ...]
    ends: tuple[tuple[int, int], ...]
    within: float
    widest: float
    regions: tuple[Region, ...]
    amiss: tuple[Amiss, ...] = ()


@dataclass(frozen=True, slots=True)
class Making:
    """What is made of regions.

    Args:
        form: sheet, extrude or revolve; depth: of an extrusion, mm; both: half of it to each side; draft:
            of its walls, deg.
        angle: of a revolution, deg; axis: x, y or four numbers, a point and a direction.
    """

    form: str = "sheet"
    depth: float = 0.0
    both: bool = False
    draft: float = 0.0
    angle: float = 360.0
    axis: str = "y"


@dataclass(frozen=True, slots=True)
class ProfileWish:
    """What of a drawing is taken, and what is made of it.

    Args:
        layers: names; those that the sender shows where it is None. kinds: of entities; all where it is
            None.
        blocks: dissolved among the rest, placed (each makes regions of its own), or none.
        within: how near ends must come to be joined, mm.
        regions: numbers from 1; all where there are none.
        dropped: kinds of relations, and numbers of single ones from 1, that need not hold.
        changes: names of sizes and their new values, mm or degrees.
        name, number: of the part that is made; empty for the file's name.
    """

    unit: str = ""
    layout: str = ""
    layers: tuple[str, ...] | None = None
    kinds: tuple[str, ...] | None = None
    blocks: str = "dissolved"
    within: float = 0.01
    regions: tuple[int, ...] = ()
    dropped: tuple[str, ...] = ()
    changes: tuple[tuple[str, float], ...] = ()
    making: Making = Making()
    name: str = ""
    number: str = ""
