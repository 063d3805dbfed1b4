"""A sheet that is closed but for its flat boundaries: a solid is likely meant."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw, connected_boundaries
from gondrel.core.kernel.base.shape import faces_of, shell_of
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block, cylinder
from gondrel.core.model.body import BodyKind
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


_SMALL = 0.35


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One doubt when the boundaries are short against what the sheet surrounds."""
    if body.kind is not BodyKind.SHEET or len(body.faces) < 3:
        return
    boundaries = list(connected_boundaries(body))
    length = sum(body.edges[i].length for boundary in boundaries for i in boundary)
    around = sum(face.perimeter for face in body.faces)
    if boundaries and around > 0 and length < _SMALL * around:
        first = body.edges[boundaries[0][0]]
        text = f"{len(body.faces)} faces with {len(boundaries)} open rims, {length:.4g} mm in all"
        edges = tuple(i for boundary in boundaries for i in boundary)
        yield Flaw(text, edge=first.index, point=first.middle, measured=length, edges=edges)


CHECK = Check(
    code="T102",
    name="sheet-for-solid",
    title="Sheet where a solid is likely meant",
    severity=Severity.DOUBT,
    why="Nothing can be said of volume and mass, and it can't be cut like a solid.",
    cure="Close its rims, then make a solid of it.",
    source="own",
    unit="mm",
    run=find,
    bad=lambda: shell_of(faces_of(block(10, 20, 30))[:5]),
    good=lambda: shell_of(faces_of(cylinder(5, 20))[:1]),
)
