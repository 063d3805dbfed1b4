"""An edge or a vertex inside a body that bounds nothing."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import with_loose_edge
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each edge of a solid or sheet that no face coedges."""
    if not body.faces:
        return
    for edge in body.edges:
        if not edge.coedges and not edge.is_degenerate:
            text = f"an edge of {edge.length:.4g} mm bounds no face"
            yield Flaw(text, edge=edge.index, point=edge.middle, measured=edge.length)


CHECK = Check(
    code="T109",
    name="left-over-edge",
    title="Edge left over",
    severity=Severity.DOUBT,
    why="It is debris of an operation or of a translation; some receivers refuse the body for it.",
    cure="Drop it.",
    source="own",
    unit="mm",
    run=find,
    bad=with_loose_edge,
    good=lambda: block(10, 20, 30),
)
