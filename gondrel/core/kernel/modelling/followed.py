"""What became of each face of a body by an operation of the kernel: kept, changed, made or gone."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeShape
from OCP.BRepTools import BRepTools_History
from OCP.OCP.collections import (
    IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap,
)
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape

from gondrel.core.kernel.base.shape import faces_of

__all__ = ["Followed", "follow"]


@dataclass(frozen=True, slots=True)
class Followed:
    """A body and where its faces come from.

    Args:
        shape: the body.
        sources: of each of its faces the index of the face it is, or is a part of, -1 for one made anew.
        gone: indices of faces of which nothing is left, as of those that another took in.
        changed: indices of faces that are there in another extent.
    """

    shape: TopoDS_Shape
    sources: tuple[int, ...]
    gone: tuple[int, ...] = ()
    changed: tuple[int, ...] = ()


def follow(
    before: TopoDS_Shape,
    after: TopoDS_Shape,
    by: BRepBuilderAPI_MakeShape | BRepTools_History,
    *,
    first: Callable[[int], bool] = lambda _: True,
) -> Followed:
    """Follow the faces of a body through the operation that made another of it; call it inside
    kernel_call.

    Args:
        first: which faces a face is said to be of where several became one of it.
    """
    faces = faces_of(before)
    places = ShapeMap()
    TopExp.MapShapes_s(after, TopAbs_ShapeEnum.TopAbs_FACE, places)
    sources = [-1] * places.Extent()
    gone, changed = [], []
    for index, face in sorted(enumerate(faces), key=lambda each: not first(each[0])):
        hits = [places.FindIndex(each) for each in _became(by, face)]
        hits = [hit for hit in hits if hit]
        if not hits:
            gone.append(index)
            continue
        if len(hits) > 1 or not places.FindKey(hits[0]).IsSame(face):
            changed.append(index)
        for hit in hits:
            if sources[hit - 1] < 0:
                sources[hit - 1] = index
    return Followed(after, tuple(sources), tuple(sorted(gone)), tuple(sorted(changed)))


def _became(by: BRepBuilderAPI_MakeShape | BRepTools_History, old: TopoDS_Shape) -> list[TopoDS_Shape]:
    """What a shape is afterwards; the shape itself where it was not touched."""
    modified = list(by.Modified(old))
    if modified:
        return modified
    removed = by.IsRemoved(old) if isinstance(by, BRepTools_History) else by.IsDeleted(old)
    return [] if removed else [old]
