"""Views of a model as on a drawing: lines seen and hidden, cut faces hatched, flat faces as outlines."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import located, shape_from_blob
from gondrel.core.kernel.convert.flat_out import flat_curves
from gondrel.core.kernel.inspect.hidden_lines import lines_seen
from gondrel.core.kernel.measure.flat_faces import largest_flat_face
from gondrel.core.kernel.modelling.halved import left_of
from gondrel.core.measuring.outlines import outlines_of
from gondrel.core.measuring.placed import BodyInPlace
from gondrel.core.measuring.sections import cut_model
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.cutting import Cut
from gondrel.core.model.drawing import DrawnView, ViewFrame
from gondrel.core.model.facets import is_facets
from gondrel.core.model.outline import PartOutline, outline_box, shifted
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.sheet.covering import drawn_once
from gondrel.core.work import SILENT, Progress

__all__ = ["VIEWS", "flat_outlines", "view_frame", "view_of"]

_HALF, _SIXTH = math.sqrt(1 / 2), math.sqrt(1 / 6)

VIEWS: dict[str, tuple[tuple[float, float, float], tuple[float, float, float]]] = {
    "front": ((1.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
    "back": ((-1.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
    "left": ((0.0, -1.0, 0.0), (0.0, 0.0, 1.0)),
    "right": ((0.0, 1.0, 0.0), (0.0, 0.0, 1.0)),
    "top": ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0)),
    "bottom": ((1.0, 0.0, 0.0), (0.0, -1.0, 0.0)),
    "iso": ((_HALF, _HALF, 0.0), (-_SIXTH, _SIXTH, 2 * _SIXTH)),
}
"""Right and up of each view in the model's frame, z upward, seen from -y at the front."""

_GREY = "#5A6670"
_GAP = 0.15


def view_frame(name: str) -> ViewFrame:
    """The frame of a usual view. Raises KeyError for another name."""
    right, up = VIEWS[name]
    return ViewFrame(name, right, up)


def view_of(
    model: Model, bodies: Sequence[BodyInPlace], frame: ViewFrame, store: BlobStore,
    facts: Mapping[str, BodyFacts], *, hidden: bool = True, smooth: bool = False,
    progress: Progress = SILENT,
) -> tuple[DrawnView, tuple[str, ...]]:  # fmt: skip
    """Draw bodies in their places as seen from a direction.

    Returns: the view, and the names of parts that are not drawn since they are meshes or can't be cut.

    Raises:
        KernelRefused: when the kernel fails over hidden lines.
    """
    shapes, names, colours, left_out = [], [], [], []
    for each in progress.part(0.0, 0.2).each(list(bodies), "Placing bodies"):
        blob = store.get(each.body.blob)
        try:
            if is_facets(blob):
                raise KernelRefused("a mesh has no edges to draw")
            shape = located(shape_from_blob(blob), each.placement)
            shape = left_of(shape, frame.cut) if frame.cut is not None else shape
        except KernelRefused:
            left_out.append(each.product.label)
            continue
        if shape is not None:
            shapes.append(shape)
            names.append(each.product.label)
            colours.append(each.body.colour.hex if each.body.colour is not None else _GREY)
    progress.at(0.2, "Removing hidden lines")
    lines = drawn_once(lines_seen(shapes, frame, hidden=hidden, smooth=smooth))
    cut: tuple[PartOutline, ...] = ()
    if frame.cut is not None:
        cut = _cut_faces(model, bodies, frame, store, facts, progress.part(0.7, 1.0))
    return DrawnView(frame.name, tuple(names), tuple(colours), tuple(lines), cut), tuple(left_out)


def _cut_faces(
    model: Model, bodies: Sequence[BodyInPlace], frame: ViewFrame, store: BlobStore,
    facts: Mapping[str, BodyFacts], progress: Progress,
) -> tuple[PartOutline, ...]:  # fmt: skip
    assert frame.cut is not None
    cut = Cut((frame.cut,))
    ours = {(each.path, each.body.id) for each in bodies}
    sections, _ = cut_model(model, cut, store, dict(facts), progress=progress)
    chosen = [section for section in sections if (section.path, section.body) in ours]
    return outlines_of(model, cut, chosen, store)


def flat_outlines(bodies: Sequence[BodyInPlace], store: BlobStore) -> tuple[PartOutline, ...]:
    """The outline of the largest flat face of each different body, side by side, for cutting out.

    Raises:
        KernelRefused: when the kernel fails over one.
    """
    made: list[PartOutline] = []
    seen: set[str] = set()
    for each in bodies:
        blob = store.get(each.body.blob)
        if each.body.blob in seen or is_facets(blob):
            continue
        seen.add(each.body.blob)
        found = largest_flat_face(shape_from_blob(blob))
        if found is None:
            continue
        face, (origin, right, up) = found
        outline = PartOutline(each.product.label, _GREY, tuple(flat_curves(face, origin, right, up)))
        (left, low), _ = outline_box((outline,))
        at = 0.0
        if made:
            (start, _), (end, _) = outline_box(tuple(made))
            at = end + _GAP * (end - start) / len(made)
        made.append(shifted(outline, at - left, -low))
    return tuple(made)
