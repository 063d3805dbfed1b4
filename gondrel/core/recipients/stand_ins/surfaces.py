"""A system of surfaces: it takes solids apart and sews their faces at a tolerance of its own."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.kernel.topology.resewing import resewn
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.stand_ins.base import StandIn, Taken, opened, with_bodies
from gondrel.core.work import Progress

__all__ = ["STAND_IN"]

_SEWN_AT = 0.01


def _take(path: str, store: BlobStore, progress: Progress) -> Taken:
    _, model = opened(path, store, progress)
    complaints, products = [], []
    for product in model.products:
        bodies = []
        for body in product.bodies:
            bodies.append(_as_sheet(body, store) if body.kind is BodyKind.SOLID else body)
            if body.kind is BodyKind.SOLID:
                complaints.append(f"{product.label}: a solid came in as a quilt of faces")
        products.append(with_bodies(product, bodies))
    return Taken(replace(model, products=tuple(products)), tuple(complaints))


def _as_sheet(body: Body, store: BlobStore) -> Body:
    blob, places = resewn(store.get(body.blob), _SEWN_AT)
    colours = tuple(sorted((places[face], colour) for face, colour in body.face_colours if face in places))
    return replace(
        body, kind=BodyKind.SHEET, blob=store.put(blob), face_colours=colours, witness=None,
    )  # fmt: skip


STAND_IN = StandIn(
    "surfaces", "A surface modeller",
    f"It knows surfaces only: solids come apart and are sewn at {_SEWN_AT:g} mm.",
    _take,
)  # fmt: skip
