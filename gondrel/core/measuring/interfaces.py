"""Faces of a part that other parts touch, and that are not in another revision of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import Shape, faces_of, located, shape_from_blob
from gondrel.core.kernel.inspect.face_graph import face_graph_of
from gondrel.core.kernel.measure.between import nearest
from gondrel.core.kernel.measure.mass import box_of
from gondrel.core.kernel.measure.spots import face_spots
from gondrel.core.measuring.placed import BodyInPlace, placed_bodies
from gondrel.core.model.body import Body
from gondrel.core.model.facets import is_facets
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["MovedFace", "moved_interfaces"]

Floats = NDArray[np.float64]

_SAME = 1e-4
_TOUCH = 1e-3
"""Nearer than this, mm, parts touch."""


@dataclass(frozen=True, slots=True)
class MovedFace:
    """A face that is no longer where it was.

    Args:
        face: its number in the body, from 0; kind: of its surface; what: its diameter, or nothing.
        touched_by: names of the parts that touched it.
    """

    face: int
    kind: str
    what: str
    touched_by: tuple[str, ...]

    def __str__(self) -> str:
        size = f" {self.what}" if self.what else ""
        return f"face {self.face + 1} ({self.kind}{size}), touched by {', '.join(self.touched_by)}"


def moved_interfaces(
    assembly: Model, product: str, new: Sequence[Body], store: BlobStore, *, progress: Progress = SILENT
) -> list[MovedFace]:
    """The faces of a part that others touch in an assembly and that its new bodies do not have.

    Args:
        assembly: in which the part stands; product: its id; new: the bodies of the other revision.

    Raises:
        KernelRefused: when a body can't be looked at.
    """
    placed = list(placed_bodies(assembly))
    mine = [each for each in placed if each.product.id == product]
    others = [each for each in placed if each.product.id != product]
    after = [_spots(store, body) for body in new]
    known = np.concatenate(after) if after else np.empty((0, 4))
    shapes = _Placed(store)
    found: dict[tuple[str, int], MovedFace] = {}
    for each in progress.each(mine, "Looking at interfaces"):
        blob = store.get(each.body.blob)
        if is_facets(blob):
            continue
        solid = shape_from_blob(blob)
        gone = _gone(face_spots(solid), known)
        if not gone:
            continue
        graph, faces = face_graph_of(solid), list(faces_of(solid))
        for face in gone:
            here = located(faces[face], each.placement)
            touching = {other.product.label for other in others if shapes.touches(here, other)}
            if touching:
                told = graph.faces[face]
                what = f"\u2300 {2 * told.radius:.6g} mm" if told.kind == "cylinder" else ""
                old = found.get((each.body.id, face))
                names = tuple(sorted(touching | set(old.touched_by if old is not None else ())))
                found[each.body.id, face] = MovedFace(face, told.kind, what, names)
    return list(found.values())


def _spots(store: BlobStore, body: Body) -> Floats:
    blob = store.get(body.blob)
    return np.empty((0, 4)) if is_facets(blob) else face_spots(shape_from_blob(blob))


def _gone(before: Floats, after: Floats) -> list[int]:
    """Faces of which there is none of the same middle and area."""
    if not len(after):
        return list(range(len(before)))
    off = np.abs(before[:, None] - after[None]).max(axis=2)
    return [int(n) for n in np.flatnonzero(off.min(axis=1) > _SAME * np.maximum(1.0, before[:, 3]))]


class _Placed:
    """Bodies in their places, each read once."""

    def __init__(self, store: BlobStore) -> None:
        self._store = store
        self._shapes: dict[tuple[tuple[str, ...], str], tuple[Shape, Floats] | None] = {}

    def touches(self, face: Shape, other: BodyInPlace) -> bool:
        key = other.path, other.body.id
        if key not in self._shapes:
            blob = self._store.get(other.body.blob)
            shape = None if is_facets(blob) else located(shape_from_blob(blob), other.placement)
            box = np.array(box_of(shape)).reshape(2, 3) if shape is not None else None
            self._shapes[key] = (shape, box) if shape is not None and box is not None else None
        kept = self._shapes[key]
        if kept is None:
            return False
        shape, box = kept
        own = np.array(box_of(face)).reshape(2, 3)
        if (own[0] > box[1] + _TOUCH).any() or (own[1] < box[0] - _TOUCH).any():
            return False
        try:
            one, point = nearest(face, shape)
        except KernelRefused:
            return False
        return float(np.linalg.norm(one - point)) < _TOUCH
