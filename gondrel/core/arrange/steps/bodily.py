"""Steps that edit bodies."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from gondrel.core.arrange.bodywork import BodyEdit, edit_body, shape_of
from gondrel.core.arrange.properties import Edit, set_metadata
from gondrel.core.arrange.steps.base import Context, Items, Kind, NotApplicable
from gondrel.core.arrange.structure import delete_components
from gondrel.core.errors import KernelRefused, UsageError
from gondrel.core.kernel.base.shape import Shape, moved_blob, moved_copy
from gondrel.core.kernel.derive import edge_spots_of, spots_of
from gondrel.core.kernel.inspect.small_faces import chamfer_faces, fillet_faces, hole_faces
from gondrel.core.kernel.modelling.edits import (
    chamfered,
    cut_by_plane,
    filleted,
    mirror_of_plane,
    scaled,
    shelled,
    thickened,
    united,
    with_common,
    with_hole,
    without,
    without_faces,
)
from gondrel.core.kernel.modelling.followed import Followed
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.product import Product

__all__ = ["KINDS", "THREAD_PITCHES"]

Vector = tuple[float, float, float]

THREAD_PITCHES = {
    "M3": 0.5, "M4": 0.7, "M5": 0.8, "M6": 1.0, "M8": 1.25, "M10": 1.5, "M12": 1.75, "M14": 2.0, "M16": 2.0,
    "M18": 2.5, "M20": 2.5, "M22": 2.5, "M24": 3.0, "M27": 3.0, "M30": 3.5, "M36": 4.0,
}  # fmt: skip
"""Coarse pitches, mm (ISO 261, selected by ISO 262; from memory)."""


def _body_of(context: Context, items: Items) -> tuple[Product, Body]:
    product = context.single(items)
    if len(product.bodies) != 1:
        raise NotApplicable(f"{product.label} has {len(product.bodies)} bodies; the step is about one")
    return product, product.bodies[0]


def _edited(context: Context, body: Body, change: Callable[[Shape], Followed], what: str) -> Edit:
    made = edit_body(context.model, context.store, body.id, change)
    context.told += made.lost
    return f"{what} ({_figures(made)})", made.model


def _figures(made: BodyEdit) -> str:
    after = sum(facts.volume for facts in made.after)
    return f"{made.before.volume:,.2f} to {after:,.2f} mm\u00b3"


def _nearest(points: Sequence[Vector], spots: np.ndarray, what: str) -> list[int]:  # type: ignore[type-arg]
    """Places of the faces or edges whose middles are nearest to points. Raises UsageError without any."""
    if not points:
        raise UsageError(f"no {what} is told")
    if not len(spots):
        raise NotApplicable(f"the body has no {what}")
    away = np.linalg.norm(spots[None, :, :3] - np.array(points)[:, None], axis=2)
    return list(dict.fromkeys(int(place) for place in np.nan_to_num(away, nan=np.inf).argmin(axis=1)))


@dataclass(frozen=True, slots=True)
class Hole:
    """at: its mouth; into: direction into the material; diameter, depth: mm, 0 for through; bore:
    diameter and depth of a counterbore; sink: diameter and full angle, degrees, of a countersink;
    thread: as M8, which is kept as a property with its coarse pitch."""

    at: Vector
    into: Vector
    diameter: float
    depth: float = 0.0
    bore: tuple[float, float] | None = None
    sink: tuple[float, float] | None = None
    thread: str = ""

    def run(self, context: Context, items: Items) -> Edit:
        if self.thread and self.thread not in THREAD_PITCHES:
            raise UsageError(f"there is no thread {self.thread!r}", hint=", ".join(THREAD_PITCHES))
        product, body = _body_of(context, items)
        words, model = _edited(
            context, body,
            lambda shape: with_hole(
                shape, self.at, self.into, self.diameter, self.depth or None, bore=self.bore, sink=self.sink
            ),
            f"Drill {product.label}, {self.diameter:g} mm",
        )  # fmt: skip
        if self.thread:
            value = f"{self.thread} \u00d7 {THREAD_PITCHES[self.thread]:g}"
            _, model = set_metadata(model, [product.id], "Thread", value)
        return words, model


def _on_edges(
    context: Context, items: Items, points: Sequence[Vector],
    do: Callable[[Shape, Sequence[int], float], Followed], verb: str, size: float,
) -> Edit:  # fmt: skip
    """Edges told by points near their middles rounded or bevelled."""
    product, body = _body_of(context, items)
    places = _nearest(points, edge_spots_of(context.store, body.blob), "edge")
    what = f"{verb} {len(places)} edges of {product.label} by {size:g} mm"
    return _edited(context, body, lambda shape: do(shape, places, size), what)


@dataclass(frozen=True, slots=True)
class Fillet:
    """edges: points near the middles of the edges; radius: mm."""

    edges: tuple[Vector, ...]
    radius: float

    def run(self, context: Context, items: Items) -> Edit:
        return _on_edges(context, items, self.edges, filleted, "Round", self.radius)


@dataclass(frozen=True, slots=True)
class Chamfer:
    """edges: points near the middles of the edges; width: mm."""

    edges: tuple[Vector, ...]
    width: float

    def run(self, context: Context, items: Items) -> Edit:
        return _on_edges(context, items, self.edges, chamfered, "Bevel", self.width)


@dataclass(frozen=True, slots=True)
class Shell:
    """faces: points near the middles of the faces that are left open; wall: mm."""

    faces: tuple[Vector, ...]
    wall: float

    def run(self, context: Context, items: Items) -> Edit:
        product, body = _body_of(context, items)
        places = _nearest(self.faces, spots_of(context.store, body.blob), "face")
        return _edited(
            context, body, lambda shape: shelled(shape, places, self.wall),
            f"Hollow {product.label} out to {self.wall:g} mm",
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class FillHoles:
    """below: mm; round holes of a smaller diameter are filled."""

    below: float

    def run(self, context: Context, items: Items) -> Edit:
        return _simplified(
            context, items, lambda shape: hole_faces(shape, self.below), "Fill", "faces of holes"
        )


@dataclass(frozen=True, slots=True)
class DropFillets:
    """below: mm; roundings of a smaller radius go, and their neighbours run on until they meet."""

    below: float

    def run(self, context: Context, items: Items) -> Edit:
        return _simplified(context, items, lambda shape: fillet_faces(shape, self.below), "Drop", "fillets")


@dataclass(frozen=True, slots=True)
class DropChamfers:
    """below: mm; bevels of a smaller width go, and their neighbours run on until they meet."""

    below: float

    def run(self, context: Context, items: Items) -> Edit:
        return _simplified(context, items, lambda shape: chamfer_faces(shape, self.below), "Drop", "bevels")


def _simplified(
    context: Context, items: Items, find: Callable[[Shape], list[int]], verb: str, what: str
) -> Edit:
    """Faces taken out of every solid that is meant, all of a body at once, else as many as can be one by
    one; those that can't be are told."""
    done = left = 0
    before, after = 0.0, 0.0
    for product in context.products(items):
        for body in product.bodies:
            if body.kind is not BodyKind.SOLID:
                continue
            faces = find(shape_of(context.store, body))
            count = len(faces)
            if not count:
                continue
            made: BodyEdit | None
            try:
                change = partial(without_faces, faces=faces)
                made = edit_body(context.model, context.store, body.id, change)
                closed = count
            except KernelRefused:
                made, closed = _one_by_one(context, body, find)
            if made is None:
                left += count
                continue
            done, left = done + closed, left + count - closed
            before += made.before.volume
            after += sum(facts.volume for facts in made.after)
            context.model = made.model
            context.told += made.lost
    if not done:
        raise NotApplicable(f"there are no {what} below that size" if not left else
                            f"none of {left} {what} can be closed over")  # fmt: skip
    if left:
        context.told.append(f"{left} of {done + left} {what} can't be closed over and stay")
    return f"{verb} {done} {what} ({before:,.2f} to {after:,.2f} mm\u00b3)", context.model


def _one_by_one(
    context: Context, body: Body, find: Callable[[Shape], list[int]]
) -> tuple[BodyEdit | None, int]:
    """Each face alone, by what it is after those before it; how many went."""
    made: BodyEdit | None = None
    model, closed, skipped = context.model, 0, 0
    while True:
        now = next(b for _, b in model.bodies() if b.id == body.id)
        faces = find(shape_of(context.store, now))
        if skipped >= len(faces):
            return made, closed
        face = faces[skipped]
        try:
            step = edit_body(model, context.store, body.id, partial(without_faces, faces=[face]))
        except KernelRefused:
            skipped += 1
            continue
        first = made.before if made is not None else step.before
        made = replace(step, before=first)
        model, closed = step.model, closed + 1


@dataclass(frozen=True, slots=True)
class Thicken:
    """thickness: mm, along the sheet's normal, below zero against it; the sheet becomes a solid."""

    thickness: float

    def run(self, context: Context, items: Items) -> Edit:
        product, body = _body_of(context, items)
        if body.kind is not BodyKind.SHEET:
            raise NotApplicable(f"{product.label} is no sheet")
        return _edited(
            context, body, lambda shape: thickened(shape, self.thickness),
            f"Thicken {product.label} by {self.thickness:g} mm",
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class CutByPlane:
    """at, normal: of the plane; keep: below, above or both sides of it."""

    at: Vector
    normal: Vector
    keep: str = "below"

    def run(self, context: Context, items: Items) -> Edit:
        if self.keep not in ("below", "above", "both"):
            raise UsageError(f"a cut keeps below, above or both (got {self.keep!r})")
        product, body = _body_of(context, items)
        x, y, z = self.normal
        normal = self.normal if self.keep != "above" else (-x, -y, -z)
        words, model = _edited(
            context, body, lambda shape: cut_by_plane(shape, self.at, normal), f"Cut {product.label}"
        )
        if self.keep == "both":
            turned = (-x, -y, -z)
            other = edit_body(
                context.model, context.store, body.id, lambda s: cut_by_plane(s, self.at, turned)
            )
            halves = other.model.product(product.id).bodies
            added = tuple(replace(b, id=f"{b.id}.other") for b in halves)
            kept = model.product(product.id)
            model = model.with_product(replace(kept, bodies=(*kept.bodies, *added)))
            words = f"Cut {product.label} in two"
        return words, model


@dataclass(frozen=True, slots=True)
class Scale:
    """factor: by which the body grows about a point."""

    factor: float
    about: Vector = (0.0, 0.0, 0.0)

    def run(self, context: Context, items: Items) -> Edit:
        product, body = _body_of(context, items)
        return _edited(
            context, body, lambda shape: scaled(shape, self.factor, self.about),
            f"Scale {product.label} by {self.factor:g}",
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class MirrorBody:
    """at, normal: of the plane; unite: whether the body and its image become one."""

    normal: Vector
    at: Vector = (0.0, 0.0, 0.0)
    unite: bool = True

    def run(self, context: Context, items: Items) -> Edit:
        product, body = _body_of(context, items)
        mirror = mirror_of_plane(self.at, self.normal)
        if self.unite:
            return _edited(
                context, body, lambda shape: united(shape, [moved_copy(shape, mirror)]),
                f"Mirror {product.label} and unite it",
            )  # fmt: skip
        image = replace(
            body, id=f"{body.id}.image", witness=None,
            blob=context.store.put(moved_blob(context.store.get(body.blob), mirror)),
        )  # fmt: skip
        changed = replace(product, bodies=(*product.bodies, image), validation=None)
        return f"Mirror {product.label}", context.model.with_product(changed)


@dataclass(frozen=True, slots=True)
class Combine:
    """how: unite, take-away or common; other: the part whose body is the other; remove: whether it goes."""

    how: str
    other: Items
    remove: bool = True

    def run(self, context: Context, items: Items) -> Edit:
        ways: dict[str, Callable[[Shape, Shape], Followed]] = {
            "unite": lambda a, b: united(a, [b]),
            "take-away": lambda a, b: without(a, [b]),
            "common": with_common,
        }
        if self.how not in ways:
            raise UsageError(f"there is no way to combine called {self.how!r}", hint=", ".join(ways))
        product, body = _body_of(context, items)
        other_product, other_body = _body_of(context, self.other)
        if product.id == other_product.id:
            raise NotApplicable("a body can't be combined with itself")
        tool = moved_copy(shape_of(context.store, other_body), _between(context, product, other_product))
        words, model = _edited(
            context, body, lambda shape: ways[self.how](shape, tool),
            f"{self.how.capitalize().replace('-', ' ')} {product.label} and {other_product.label}",
        )  # fmt: skip
        if self.remove:
            _, model = delete_components(model, (), [other_product.id])
        return words, model


def _between(context: Context, product: Product, other: Product) -> tuple[float, ...]:
    """From the frame of another part to that of a part, both in their first places."""
    places: dict[str, np.ndarray] = {}  # type: ignore[type-arg]
    for place in context.model.walk():
        places.setdefault(place.product, np.asarray(place.placement, float).reshape(4, 4))
    matrix = np.linalg.inv(places[product.id]) @ places[other.id]
    return tuple(matrix.ravel().tolist())


KINDS = (
    Kind("hole", "A hole, plain, counterbored or countersunk", Hole),
    Kind("fillet", "Edges are rounded", Fillet),
    Kind("chamfer", "Edges are bevelled", Chamfer),
    Kind("shell", "A body is hollowed out", Shell),
    Kind("fill-holes", "Small round holes are filled", FillHoles),
    Kind("drop-fillets", "Small roundings go", DropFillets),
    Kind("drop-chamfers", "Small bevels go", DropChamfers),
    Kind("thicken", "A sheet becomes a solid", Thicken),
    Kind("cut", "A body is cut by a plane", CutByPlane),
    Kind("scale", "A body is made larger or smaller", Scale),
    Kind("mirror-body", "A body is mirrored, and united with its image", MirrorBody),
    Kind("combine", "Two bodies are united, taken away or cut to what they share", Combine),
)
