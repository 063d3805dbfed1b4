"""How a dumb solid can be made again: a base body, and features in an order that works."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from gondrel.core.model.geometry import Vector
from gondrel.core.model.outline import Curve

__all__ = ["Base", "PartPattern", "PartRecipe", "PartStep", "Rebuilt"]


@dataclass(frozen=True, slots=True)
class Base:
    """What features are put on.

    Args:
        kind: extrusion, revolution, or remains where the solid without its features is neither.
        at, right, up: the frame of the outline; curves: the outline, mm in that frame.
        depth: of an extrusion along right x up, mm; of a revolution about up through at, a whole turn.
    """

    kind: str
    at: Vector = (0.0, 0.0, 0.0)
    right: Vector = (1.0, 0.0, 0.0)
    up: Vector = (0.0, 1.0, 0.0)
    curves: tuple[Curve, ...] = ()
    depth: float = 0.0


@dataclass(frozen=True, slots=True)
class PartStep:
    """One feature put on.

    Args:
        number: of the feature in its list, from 1; copies that a pattern adds have the number of its first.
        kind, sizes: as of the feature.
        at, way: where it starts and where it goes: into the material for holes, along the prism else.
        right: across it, for outlines.
        outline: of a prism, mm in the frame of right and way x right.
        turned: of a hole: distances along it and radii there, mm.
        edges: points on each edge that is rounded or bevelled, three for each.
        adds: whether it adds material.
    """

    number: int
    kind: str
    sizes: Mapping[str, float]
    at: Vector = (0.0, 0.0, 0.0)
    way: Vector = (0.0, 0.0, 1.0)
    right: Vector = (1.0, 0.0, 0.0)
    outline: tuple[Curve, ...] = ()
    depth: float = 0.0
    turned: tuple[tuple[float, float], ...] = ()
    edges: tuple[tuple[Vector, ...], ...] = ()
    adds: bool = False


@dataclass(frozen=True, slots=True)
class PartPattern:
    """A pattern of steps.

    Args:
        number: of the pattern in the list of features; form: row, circle or grid.
        members: numbers of the steps, in their order along it.
        at, way: of a circle its centre and axis; of a row its first member's place and its direction.
        sizes: count, and pitch in mm or angle in degrees.
    """

    number: int
    form: str
    members: tuple[int, ...]
    at: Vector
    way: Vector
    sizes: Mapping[str, float]


@dataclass(frozen=True, slots=True)
class PartRecipe:
    """A base and the steps on it, in their order.

    Args:
        kept: numbers of the features that stay in the base as they are, and why.
    """

    base: Base
    steps: tuple[PartStep, ...]
    patterns: tuple[PartPattern, ...] = ()
    kept: tuple[tuple[int, str], ...] = ()


@dataclass(frozen=True, slots=True)
class Rebuilt:
    """A recipe with its proof.

    Args:
        equal: whether the part computed anew is the original, within 1e-6 of its volume and 1e-6 mm.
        volume_error: relative; deviation: mm; None where it was not measured. why: where it is not equal.
    """

    recipe: PartRecipe
    equal: bool
    volume_error: float | None
    deviation: float | None
    why: str = ""
