"""A system that reads Parasolid XT up to an old version, and nothing else."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

from gondrel.core.kernel.base.shape import shape_from_blob
from gondrel.core.kernel.convert.boundary_out import boundary_of
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.geometry import BCurve, BSurface
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.recipients.stand_ins.base import StandIn, Taken, opened, with_bodies
from gondrel.core.work import Progress

__all__ = ["STAND_IN"]

_NEWEST = 14000
_HIGHEST = 9
_SCHEMA = re.compile(rb"SCH_\d+_(\d+)")
_HEAD = 65_536


def _take(path: str, store: BlobStore, progress: Progress) -> Taken:
    with Path(path).open("rb") as stream:
        found = _SCHEMA.search(stream.read(_HEAD))
    if found is None:
        return Taken(Model((), ()), ("this is no Parasolid file; nothing was taken in",))
    version = int(found[1])
    if version > _NEWEST:
        text = f"the file is of version {version}, newer than {_NEWEST}; nothing was taken in"
        return Taken(Model((), ()), (text,))
    return _plain(opened(path, store, progress)[1], store)


def _plain(model: Model, store: BlobStore) -> Taken:
    """The model without bodies that have splines of too high a degree."""
    complaints, products = [], []
    for product in model.products:
        kept = [body for body in product.bodies if _highest(store, body) <= _HIGHEST]
        if len(kept) != len(product.bodies):
            complaints.append(f"{product.label}: a spline of a degree above {_HIGHEST}; left away")
            product = with_bodies(product, kept)
        products.append(product)
    return Taken(replace(model, products=tuple(products)), tuple(complaints))


def _highest(store: BlobStore, body: Body) -> int:
    """The highest degree among the splines of a body's plain description."""
    if body.kind not in (BodyKind.SOLID, BodyKind.SHEET):
        return 0
    boundary = boundary_of(shape_from_blob(store.get(body.blob))).boundary
    surfaces = [face.surface for face in boundary.faces]
    degrees = [max(s.u_degree, s.v_degree) for s in surfaces if isinstance(s, BSurface)]
    degrees += [edge.curve.degree for edge in boundary.edges if isinstance(edge.curve, BCurve)]
    return max(degrees, default=0)


STAND_IN = StandIn(
    "old-xt", "An old Parasolid system",
    f"It reads XT up to version {_NEWEST} with splines up to degree {_HIGHEST}, and nothing else.",
    _take,
)  # fmt: skip
