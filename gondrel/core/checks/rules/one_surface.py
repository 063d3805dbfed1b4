"""Neighbouring faces on one surface."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import split_block
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.inspect.same_surface import pairs_on_one_surface
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each edge between two such faces."""
    for edge, one, other, kind in pairs_on_one_surface(body):
        text = f"faces {one + 1} and {other + 1} are parts of one {kind}"
        yield Flaw(text, face=one, edge=edge, point=body.edges[edge].middle)


CHECK = Check(
    code="G406",
    name="split-surface",
    title="Neighbouring faces on one surface",
    severity=Severity.NOTE,
    why="They are one face in two pieces: more to select, and edges where there is no edge.",
    cure="Merge them where the receiver takes it.",
    source="ISO 10303-59 adjacent faces on the same surface (from memory)",
    run=find,
    bad=split_block,
    good=lambda: block(10, 20, 30),
)
