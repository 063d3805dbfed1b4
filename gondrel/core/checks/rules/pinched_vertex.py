"""Skins that have only a vertex in common."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.checks.base import Check, Flaw
from gondrel.core.kernel.examples.flawed import pinched
from gondrel.core.kernel.inspect.inspection import Inspection
from gondrel.core.kernel.modelling.build import block
from gondrel.core.model.findings import CheckLimits, Severity

__all__ = ["CHECK"]


def find(body: Inspection, limits: CheckLimits) -> Iterator[Flaw]:
    """One flaw for each vertex whose faces do not all hang together by edges there."""
    around: dict[int, list[set[int]]] = {}
    for edge in body.edges:
        faces = {face for face, _ in edge.coedges}
        for end in set(edge.ends):
            if faces and end >= 0:
                around.setdefault(end, []).append(faces)
    for vertex, groups in around.items():
        fans = _joined(groups)
        if len(fans) > 1:
            text = f"{len(fans)} skins touch in it"
            yield Flaw(
                text, vertex=vertex, point=body.vertices[vertex][0], measured=float(len(fans)), limit=1.0
            )


def _joined(groups: list[set[int]]) -> list[set[int]]:
    """Groups of faces that have one in common, made one."""
    joined: list[set[int]] = []
    for group in groups:
        whole = set(group)
        apart = []
        for other in joined:
            if other & whole:
                whole |= other
            else:
                apart.append(other)
        joined = [*apart, whole]
    return joined


CHECK = Check(
    code="T110",
    name="pinched-vertex",
    title="Skins touch in a vertex only",
    severity=Severity.FAULT,
    why="The body hangs together by a point; most modellers refuse it.",
    cure="Split the body, or thicken the place.",
    source="ISO 10303-59 non-manifold at vertex (from memory)",
    run=find,
    bad=pinched,
    good=lambda: block(10, 20, 30),
)
