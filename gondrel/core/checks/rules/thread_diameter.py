"""A bare cylinder of a thread's diameter."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.inspect.threads import point_on, round_faces_of
from gondrel.core.kernel.modelling.build import block, cut, cylinder
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]

NOMINAL = (3, 4, 5, 6, 8, 10, 12, 16, 20, 24, 30, 36)
"""Source: ISO 261, first choice of nominal diameters for coarse threads, mm (from memory)."""

DRILLS = {2.5: "M3", 3.3: "M4", 4.2: "M5", 5.0: "M6", 6.8: "M8", 8.5: "M10", 10.2: "M12", 14.0: "M16",
          17.5: "M20", 21.0: "M24", 26.5: "M30", 32.0: "M36"}  # fmt: skip
"""Source: ISO 2306, tapping drills for coarse threads, mm (from memory)."""

_SAME = 1e-3


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One note for each such diameter, of holes and of shafts."""
    reported: set[str] = set()
    for face in round_faces_of(body):
        if face.is_hole:
            thread = next((name for d, name in DRILLS.items() if abs(face.diameter - d) < _SAME), "")
            text = f"a hole of {face.diameter:.4g} mm is the tapping drill of {thread}"
        else:
            thread = next((f"M{d}" for d in NOMINAL if abs(face.diameter - d) < _SAME), "")
            text = f"a shaft of {face.diameter:.4g} mm has the diameter of {thread}"
        if thread and text not in reported:
            reported.add(text)
            yield Flaw(text, face=face.face, point=point_on(body, face.face), measured=face.diameter)


CHECK = Check(
    code="G502",
    name="thread-diameter",
    title="Cylinder of a thread's diameter",
    severity=Severity.NOTE,
    why="A thread that the sender showed as a picture only is lost; nothing in the file tells of it.",
    cure="Ask the sender, or note the thread in the metadata.",
    source="own; diameters of ISO 261 and ISO 2306 (from memory)",
    unit="mm",
    run=find,
    bad=lambda: cut(block(20, 20, 20), cylinder(3.4, 30, at=(10, 10, -5))),
    good=lambda: cylinder(5.55, 20),
)
