"""Which face of a body, as it was before it was changed, a face of it is now."""

from __future__ import annotations

import numpy as np
from OCP.TopoDS import TopoDS_Face, TopoDS_Shape

from gondrel.core.kernel.base.shape import faces_of
from gondrel.core.kernel.measure.mass import area_of
from gondrel.core.kernel.measure.point_on_face import face_at, inner_point

__all__ = ["counterpart"]

_NEAR = 1e-4
"""Distance in mm within which a face lies on what it was."""

_SAME_AREA = 1e-6
"""Share by which an area may differ from what it was."""


def counterpart(after: TopoDS_Shape, place: int, before: TopoDS_Shape) -> int | None:
    """The place of the face that a face of a changed body was; None where it is new, or can't be told.

    A face is what it lies on. A body that was moved or scaled as a whole has its faces in their order
    still, with all areas in one ratio; where the two ways differ, nothing is told.

    Args:
        place: in the order of faces_of.

    Raises:
        KernelRefused: when the kernel fails over it.
    """
    faces = faces_of(after)
    if not 0 <= place < len(faces):
        return None
    by_order = place if _in_one_ratio(faces, faces_of(before)) else None
    by_spot = face_at(before, inner_point(faces[place]), _NEAR)
    if by_order is None or by_spot is None:
        return by_spot if by_order is None else by_order
    return by_spot if by_spot == by_order else None


def _in_one_ratio(ours: list[TopoDS_Face], theirs: list[TopoDS_Face]) -> bool:
    """Whether these are as many faces as those, and in their order all areas in one ratio."""
    if len(ours) != len(theirs):
        return False
    now, then = (np.array([area_of(face) for face in faces]) for faces in (ours, theirs))
    return bool(np.allclose(now * then.sum(), then * now.sum(), rtol=_SAME_AREA, atol=0.0))
