"""Bodies edited in a model: what is said of their faces goes along, and what is lost is told."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from gondrel.core.errors import KernelRefused, UsageError
from gondrel.core.kernel.base.shape import Shape, shape_from_blob, shape_to_blob, split_bodies
from gondrel.core.kernel.derive import facts_of
from gondrel.core.kernel.mesh.solidify import make_solids
from gondrel.core.kernel.modelling.followed import Followed
from gondrel.core.model.body import Body, BodyFacts, BodyKind
from gondrel.core.model.facets import Facets, is_facets
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore

__all__ = ["BodyEdit", "edit_body", "shape_of"]

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class BodyEdit:
    """What came of an edit of a body.

    Args:
        before, after: figures of the body, or of those it became together where it fell apart.
        lost: what was said of faces or edges that are no more, in words.
    """

    model: Model
    before: BodyFacts
    after: tuple[BodyFacts, ...]
    lost: tuple[str, ...] = ()


def shape_of(store: BlobStore, body: Body) -> Shape:
    """The exact shape of a body; of a mesh the solid that its facets bound.

    Raises:
        KernelRefused: when the facets bound none, or more than one.
    """
    blob = store.get(body.blob)
    if not is_facets(blob):
        return shape_from_blob(blob)
    made = make_solids(Facets.from_bytes(blob)).shapes
    if len(made) != 1:
        raise KernelRefused(f"its facets bound {len(made)} solids; make solids of them first")
    return made[0]


def edit_body(
    model: Model, store: BlobStore, body_id: str, change: Callable[[Shape], Followed]
) -> BodyEdit:
    """A model with one body changed.

    Args:
        change: what is done to its shape.

    Raises:
        UsageError: when there is no such body. KernelRefused: when no valid body comes of it.
    """
    owner = next(((p, b) for p, b in model.bodies() if b.id == body_id), None)
    if owner is None:
        raise UsageError("the body to change is not there", hint=body_id)
    product, body = owner
    is_mesh = is_facets(store.get(body.blob))
    made = change(shape_of(store, body))
    pieces = [shape for kind, shape in split_bodies(made.shape) if kind is BodyKind.SOLID]
    followed, lost = _followed(body, made, is_mesh)
    bodies: list[Body] = []
    for number, piece in enumerate(pieces, 1):
        key = store.put(shape_to_blob(piece))
        if len(pieces) == 1:
            bodies.append(replace(followed, blob=key))
        else:
            apart = replace(followed.without_parts(), id=f"{body.id}.{number}", blob=key)
            bodies.append(apart)
    if len(pieces) > 1 and _said_of_faces(followed):
        lost.append("what was said of single faces, as the body fell apart")
    at = product.bodies.index(body)
    changed = replace(
        product, bodies=(*product.bodies[:at], *bodies, *product.bodies[at + 1 :]), validation=None
    )
    return BodyEdit(
        model.with_product(changed), facts_of(store, body.blob),
        tuple(facts_of(store, each.blob) for each in bodies), tuple(lost),
    )  # fmt: skip


def _said_of_faces(body: Body) -> bool:
    return body.without_parts() != body


def _followed(body: Body, made: Followed, is_mesh: bool) -> tuple[Body, list[str]]:
    """The body with what is said of its faces where they are now, and what of it is lost."""
    kind = replace(body, kind=BodyKind.SOLID, witness=None)
    if is_mesh:
        told = ["what was said of its facets"] if _said_of_faces(body) else []
        return kind.without_parts(), told
    places: dict[int, list[int]] = {}
    for now, was in enumerate(made.sources):
        if was >= 0:
            places.setdefault(was, []).append(now)
    lost = []
    gone = {face for face, _ in (*body.face_colours, *body.face_names)} - places.keys()
    if gone:
        numbers = ", ".join(str(face + 1) for face in sorted(gone)[:8])
        lost.append(f"colours or names of faces that are no more ({numbers})")
    if body.edge_colours:
        lost.append(f"colours of {len(body.edge_colours)} edges")
    moved = replace(
        kind,
        face_colours=_at_new_places(body.face_colours, places),
        face_names=_at_new_places(body.face_names, places),
        face_layers=_at_new_places(body.face_layers, places),
        face_metadata=_at_new_places(body.face_metadata, places),
        face_appearance=_at_new_places(body.face_appearance, places),
        edge_colours=(),
    )
    return moved, lost


def _at_new_places(
    said: Iterable[tuple[int, T]], places: dict[int, list[int]]
) -> tuple[tuple[int, T], ...]:
    moved: Sequence[tuple[int, T]] = [
        (now, value) for face, value in said for now in places.get(face, ())
    ]  # fmt: skip
    return tuple(sorted(moved, key=lambda each: each[0]))
