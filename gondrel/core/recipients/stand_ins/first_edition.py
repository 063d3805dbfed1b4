"""A system that knows the first edition of AP203 only, which has no colours and no layers."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.stand_ins.base import StandIn, Taken, opened
from gondrel.core.work import Progress

__all__ = ["STAND_IN"]

_SCHEMA = b"CONFIG_CONTROL_DESIGN"
_HEAD = 65_536


def _take(path: str, store: BlobStore, progress: Progress) -> Taken:
    with Path(path).open("rb") as stream:
        head = stream.read(_HEAD).partition(b"ENDSEC")[0]
    if _SCHEMA not in head:
        return Taken(Model((), ()), ("the schema of this file is not known here; nothing was taken in",))
    _, model = opened(path, store, progress)
    lost: list[str] = []
    products = []
    for product in model.products:
        bodies = tuple(
            replace(body, colour=None, face_colours=(), edge_colours=(), layers=(), face_layers=(),
                    appearance=(), face_appearance=())
            for body in product.bodies
        )  # fmt: skip
        if bodies != product.bodies:
            lost.append(product.label)
        uses = tuple(replace(use, colour=None, layers=(), own_colours=()) for use in product.occurrences)
        products.append(replace(product, bodies=bodies, occurrences=uses))
    complaints = (f"colours and layers of {len(lost)} parts are not known here",) if lost else ()
    return Taken(replace(model, products=tuple(products)), complaints)


STAND_IN = StandIn(
    "first-edition", "An old STEP reader",
    "It knows the first edition of AP203 only, and neither colours nor layers.",
    _take,
)  # fmt: skip
