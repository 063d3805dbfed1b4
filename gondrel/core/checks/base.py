"""How a check is declared, and what it is given."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["Check", "Flaw", "connected_boundaries"]


@dataclass(frozen=True, slots=True)
class Flaw:
    """What a check found on a body: where, how much, and in words; edges: where it is of several."""

    text: str
    face: int = -1
    edge: int = -1
    vertex: int = -1
    point: tuple[float, float, float] | None = None
    measured: float | None = None
    limit: float | None = None
    edges: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Check:
    """A check of single bodies.

    Args:
        code: permanent; letter T for topology, G for geometry, and three digits.
        name: short, with hyphens; title: what it finds, for people.
        why: why it matters; cure: what mends it; source: the criterion it is, or "own".
        unit: of what is measured; examines: what it looks at ("edges", "faces", "splines", "body").
        run: yields flaws; bad, good: make a broken and a sound example for tests and help.
    """

    code: str
    name: str
    title: str
    severity: Severity
    why: str
    cure: str
    source: str
    run: Callable[[Inspection, CheckLimits], Iterable[Flaw]]
    bad: Callable[[], Any]
    good: Callable[[], Any]
    unit: str = ""
    examines: str = "edges"


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
