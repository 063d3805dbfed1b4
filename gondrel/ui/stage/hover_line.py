"""The quiet line of the stage: what is under the pointer."""

from __future__ import annotations

from gondrel.core.model import Model
from gondrel.ui.presenters.detail import edge_line, face_line
from gondrel.ui.scene.bodies import Hit
from gondrel.ui.session.session import Session

__all__ = ["line_at"]


def line_at(
    session: Session, model: Model | None, hit: Hit, edge: int | None, deviation: float | None
) -> str:
    """The body, the face or edge, the place, and the deviation where it is mapped, mm."""
    body, show = hit.placed.body, session.figures
    product = model.by_id.get(hit.placed.product) if model is not None else None
    name = product.label if product is not None else body.name or "body"
    detail = session.details.get(body.blob)
    what = face_line(detail, hit.face, show) if edge is None else edge_line(detail, edge, show)
    parts = [name, what, show.point(*(float(v) for v in hit.point))]
    if deviation is not None:
        parts.append(f"deviation {show.deviation(deviation)}")
    return "   \u00b7   ".join(parts)
