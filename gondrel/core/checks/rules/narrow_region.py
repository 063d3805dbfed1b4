"""A face that is narrow in one place."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import narrow_land
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.inspect.narrow import necks_of
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """The narrowest place of each face that is wider elsewhere."""
    narrowest: dict[int, tuple[float, tuple[float, float, float]]] = {}
    for neck in necks_of(body, limits.short):
        if neck.width < narrowest.get(neck.face, (limits.short, neck.at))[0]:
            narrowest[neck.face] = (neck.width, neck.at)
    for number, (width, at) in narrowest.items():
        face = body.faces[number]
        if face.width >= limits.short:
            text = f"it narrows to {width:.3g} mm"
            yield Flaw(text, face=number, point=at, measured=width, limit=limits.short)


CHECK = Check(
    code="G305",
    name="narrow-region",
    title="Face narrow in one place",
    severity=Severity.DOUBT,
    why="A receiver with a coarser resolution sees the loop cross itself there.",
    cure="Move the edges apart, or let them meet.",
    source="ISO 10303-59 narrow region; SASIG-PDQ G-FA-RN (from memory)",
    unit="mm",
    run=find,
    bad=lambda: narrow_land(0.004),
    good=lambda: narrow_land(1.0),
)
