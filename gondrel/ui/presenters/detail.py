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
    found = detail.face(face) if detail is not None else None
    if found is None:
        return f"face {face + 1}"
    parts = [_SURFACES.get(found.kind, found.kind)]
    if found.kind in ("cylinder", "sphere"):
        parts.append(f"\u00d8 {figures.length(found.sizes[0])}")
    elif found.kind == "torus":
        parts.append(
            f"\u00d8 {figures.length(found.sizes[0])}, tube \u00d8 {figures.length(found.sizes[1])}"
        )
    elif found.kind == "cone":
        parts.append(f"half angle {math.degrees(found.angle):.3f}\u00b0")
    return ", ".join((*parts, figures.area(found.area)))


def edge_line(detail: BodyDetail | None, edge: int, figures: Figures) -> str:
    """An edge: its kind, diameter and length; only its number when nothing more is known."""
    found = detail.edge(edge) if detail is not None else None
    if found is None:
        return f"edge {edge + 1}"
    if found.kind == "circle":
        whole = math.isclose(found.length, math.pi * found.diameter, rel_tol=1e-6)
        kind = "circle" if whole else "arc"
        return f"{kind} \u00d8 {figures.length(found.diameter)}, length {figures.length(found.length)}"
    return f"{_CURVES.get(found.kind, found.kind + ' edge')}, length {figures.length(found.length)}"
