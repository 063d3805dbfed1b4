"""How a check is declared, and what it is given."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from enum import Enum
from typing import Any

from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.model.findings import CheckLimits, Severity
from gondrel.core.model.product import Placement

__all__ = ["Check", "Flaw", "Scope", "connected_boundaries"]


class Scope(Enum):
    """What a check is given: one B-rep laid out (Inspection), one mesh (Facets), the model with its
    structure (Structure), or the pairs of placed solids that share volume (tuple of Shared)."""

    BODY = "body"
    MESH = "mesh"
    STRUCTURE = "structure"
    PLACED = "placed"


@dataclass(frozen=True, slots=True)
class Flaw:
    """What a check found: where, how much, and in words.

    Args:
        edges: where it is of several. product, body: whose it is, where the check looks at a whole model;
            other, relative: the body it is found with and that one's frame in the frame of the first.
    """

    text: str
    face: int = -1
    edge: int = -1
    vertex: int = -1
    point: tuple[float, float, float] | None = None
    measured: float | None = None
    limit: float | None = None
    edges: tuple[int, ...] = ()
    product: str = ""
    body: str = ""
    other: str = ""
    relative: Placement | None = None


@dataclass(frozen=True, slots=True)
class Check:
    """A check.

    Args:
        code: permanent; a letter (T topology, G geometry, A assembly, M metadata, F facets), three digits.
        name: short, with hyphens; title: what it finds, for people.
        why: why it matters; cure: what mends it; source: the criterion it is, or "own".
        run: yields flaws of what its scope gives; unit: of what is measured.
        bad, good: make a broken and a sound body for tests and help, where its scope is a body.

    Raises:
        ValueError: when it says no reason or no cure.
    """

    code: str
    name: str
    title: str
    severity: Severity
    why: str
    cure: str
    source: str
    run: Callable[[Any, CheckLimits], Iterable[Flaw]]
    scope: Scope = Scope.BODY
    bad: Callable[[], Any] | None = None
    good: Callable[[], Any] | None = None
    unit: str = ""

    def __post_init__(self) -> None:
        if not (self.why and self.cure and self.source):
            raise ValueError(f"check {self.code} says no reason, no cure or no criterion")
        if self.scope is Scope.BODY and (self.bad is None or self.good is None):
            raise ValueError(f"check {self.code} of bodies has no example")


def connected_boundaries(body: Inspection) -> Iterator[list[int]]:
    """Edges that bound one face only, by connected rim; seams and poles are none."""
    open_edges = [e for e in body.edges if len(e.coedges) == 1 and not e.is_degenerate]
    at: dict[int, list[int]] = {}
    for edge in open_edges:
        for end in edge.ends:
            at.setdefault(end, []).append(edge.index)
    by_index = {e.index: e for e in open_edges}
    seen: set[int] = set()
    for edge in open_edges:
        if edge.index in seen:
            continue
        boundary, stack = [], [edge.index]
        seen.add(edge.index)
        while stack:
            index = stack.pop()
            boundary.append(index)
            for end in by_index[index].ends:
                for other in at[end]:
                    if other not in seen:
                        seen.add(other)
                        stack.append(other)
        yield sorted(boundary)
