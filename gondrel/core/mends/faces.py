"""What is said of faces and bodies, carried over a mend; and what a mend leaves without it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from typing import TypeVar

from gondrel.core.kernel.base.shape import Shape, faces_of, shape_from_blob
from gondrel.core.kernel.measure.point_on_face import faces_beneath
from gondrel.core.kernel.measure.spots import edge_spots, nearest_spot
from gondrel.core.model.body import Body, Rgba
from gondrel.core.model.store import BlobStore

__all__ = ["carried_over", "dropped"]

T = TypeVar("T")


def carried_over(store: BlobStore, group: Sequence[Body], made: Body, shape: Shape) -> Body:
    """A mended body with what was said of the faces that lay where its own lie now.

    Args:
        group: the bodies it was made of; made: the body, with the blob of the shape.

    Raises:
        KernelRefused: when the kernel fails over a face.
    """
    bare = made.without_parts()
    if not any(_says(body) or body.colour != made.colour for body in group):
        return bare
    shapes = [shape_from_blob(store.get(b.blob)) for b in group]
    counts = [len(faces_of(each)) for each in shapes]
    beneath = faces_beneath(shapes, shape)
    colours: list[Rgba | None] = []
    for body, count in zip(group, counts, strict=True):
        shown = dict(body.face_colours)
        colours += [shown.get(place, body.colour) for place in range(count)]
    looks = [(place, colours[under]) for place, under in enumerate(beneath) if under is not None]
    return replace(
        bare,
        face_colours=tuple((n, c) for n, c in looks if c is not None and c != made.colour),
        face_names=tuple(_over([b.face_names for b in group], counts, beneath)),
        face_layers=tuple(_over([b.face_layers for b in group], counts, beneath)),
        face_metadata=tuple(_over([b.face_metadata for b in group], counts, beneath)),
        face_appearance=tuple(_over([b.face_appearance for b in group], counts, beneath)),
        edge_colours=tuple(_edges_over(group, shapes, shape)),
    )


def _says(body: Body) -> bool:
    return body != body.without_parts()


def _edges_over(group: Sequence[Body], shapes: Sequence[Shape], shape: Shape) -> Iterator[tuple[int, Rgba]]:
    """Colours of edges, for those that lie where they lay."""
    if not any(body.edge_colours for body in group):
        return
    now = edge_spots(shape)
    for body, was in zip(group, map(edge_spots, shapes), strict=True):
        for edge, colour in body.edge_colours:
            place = nearest_spot(now, was[edge]) if edge < len(was) else -1
            if place >= 0:
                yield place, colour


def _over(
    said: Sequence[Sequence[tuple[int, T]]], counts: Sequence[int], beneath: Sequence[int | None]
) -> Iterator[tuple[int, T]]:
    """What is said of faces by their places in all bodies, for the faces that lie in those places now."""
    start = 0
    of_face: dict[int, list[T]] = {}
    for pairs, count in zip(said, counts, strict=True):
        for place, value in pairs:
            of_face.setdefault(start + place, []).append(value)
        start += count
    for place, under in enumerate(beneath):
        for value in of_face.get(under, ()) if under is not None else ():
            yield place, value


def dropped(before: Iterable[Body], after: Iterable[Body], *, are_fewer: bool = True) -> str:
    """What some bodies said and those made of them say no more, in words; empty when all is there.

    Args:
        are_fewer: whether faces may have become one, so that it is enough that one of them still says it.
    """
    was, now = _counted(before), _counted(after)
    parts = []
    for what, texts in was.items():
        left = now.get(what, Counter())
        is_of_faces = "{}" in what
        gone = Counter(set(texts) - set(left)) if is_of_faces and are_fewer else texts - left
        if gone:
            parts.append(
                f"{what} {', '.join(sorted(gone))}" if "{}" not in what else what.format(sum(gone.values()))
            )
    return f"no longer there: {'; '.join(parts)}" if parts else ""


def _counted(bodies: Iterable[Body]) -> dict[str, Counter[str]]:
    """How often each thing is said, by what is told when it is gone."""
    counts: dict[str, Counter[str]] = {}

    def count(what: str, text: str) -> None:
        counts.setdefault(what, Counter())[text] += 1

    for body in bodies:
        if body.name:
            count("the name", body.name)
        for layer in dict.fromkeys(body.layers):
            count("a body on layer", layer)
        if body.colour is not None:
            count("a body in colour", body.colour.label)
        for datum in body.metadata:
            count("the property", datum.key)
        for _, colour in body.face_colours:
            count("colours of faces ({})", colour.label)
        for _, name in body.face_names:
            count("names of faces ({})", name)
        for _, layer in body.face_layers:
            count("layers of faces ({})", layer)
        for _, datum in body.face_metadata:
            count("properties of faces ({})", datum.key)
        for _, look in body.face_appearance:
            count("further looks of faces ({})", f"{look.aspect} {look.value}")
        for _, colour in body.edge_colours:
            count("colours of edges ({})", colour.label)
    return counts
