"""What is under the pointer, in one line."""

from __future__ import annotations

import math

from gondrel.core.reports.figures import Figures
from gondrel.core.service.messages import BodyDetail

__all__ = ["edge_line", "face_line"]

_SURFACES = {"bspline": "free-form face", "bezier": "free-form face", "revolution": "face of revolution",
             "extrusion": "swept face", "offset": "offset face", "other": "face"}  # fmt: skip
_CURVES = {
    "bspline": "free-form edge",
    "bezier": "free-form edge",
    "line": "straight edge",
    "other": "edge",
}


def face_line(detail: BodyDetail | None, face: int, figures: Figures) -> str:
    """A face: its kind, size and area; only its number when nothing more is known."""
    facts = detail.face(face) if detail is not None else None
    if facts is None:
        return f"face {face + 1}"
    parts = [_SURFACES.get(facts.kind, facts.kind)]
    if facts.kind in ("cylinder", "sphere"):
        parts.append(f"\u00d8 {figures.length(facts.sizes[0])}")
    elif facts.kind == "torus":
        parts.append(
            f"\u00d8 {figures.length(facts.sizes[0])}, tube \u00d8 {figures.length(facts.sizes[1])}"
        )
    elif facts.kind == "cone":
        parts.append(f"half angle {math.degrees(facts.angle):.3f}\u00b0")
    return ", ".join((*parts, figures.area(facts.area)))


def edge_line(detail: BodyDetail | None, edge: int, figures: Figures) -> str:
    """An edge: its kind, diameter and length; only its number when nothing more is known."""
    facts = detail.edge(edge) if detail is not None else None
    if facts is None:
        return f"edge {edge + 1}"
    if facts.kind == "circle":
        whole = math.isclose(facts.length, math.pi * facts.diameter, rel_tol=1e-6)
        kind = "circle" if whole else "arc"
        return f"{kind} \u00d8 {figures.length(facts.diameter)}, length {figures.length(facts.length)}"
    return f"{_CURVES.get(facts.kind, facts.kind + ' edge')}, length {figures.length(facts.length)}"
