"""Solids as sheets of their faces, for receivers that take surfaces only."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from gondrel.core.kernel.base.shape import faces_of, shape_from_blob, shape_to_blob, shells_of
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.carries import EDGE_COLOURS, Fated
from gondrel.core.model.product import Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.verdicts import Fate
from gondrel.core.work import SILENT, Progress

__all__ = ["Opened", "sheets_of_solids"]

_KIND = "shells"
_WHY = "solids go as sheets, as was asked for"


@dataclass(frozen=True, slots=True)
class Opened:
    """A model whose solids have become sheets.

    Args:
        pieces: by body id, how many sheets a solid became: one for each of its shells.
    """

    model: Model
    pieces: Mapping[str, int]

    def fates(self) -> Iterator[Fated]:
        """What becomes of the solids."""
        for body, count in self.pieces.items():
            yield ("bodies", body, "body"), (Fate.ALTERED, _WHY, count - 1)
            shells = f"; its {count} shells become bodies" if count > 1 else ""
            yield ("geometry", body, "shape"), (Fate.ALTERED, f"a sheet encloses no volume{shells}")
            if count > 1:
                why = f"{_WHY}{shells}"
                yield ("colours", body, EDGE_COLOURS), (Fate.LOST, why)


def sheets_of_solids(model: Model, store: BlobStore, *, progress: Progress = SILENT) -> Opened:
    """Every solid of a model as sheets of the same faces in the same order, one for each shell.

    Raises:
        KernelRefused: when the kernel fails over a body.
    """
    pieces: dict[str, int] = {}
    products = []
    for product in progress.each(model.products, "Making sheets of solids"):
        bodies: list[Body] = []
        for body in product.bodies:
            sheets = [body] if body.kind is not BodyKind.SOLID else list(_sheets(body, store))
            if body.kind is BodyKind.SOLID:
                pieces[body.id] = len(sheets)
            bodies += sheets
        products.append(_with(product, tuple(bodies)))
    return Opened(replace(model, products=tuple(products)), pieces)


def _with(product: Product, bodies: tuple[Body, ...]) -> Product:
    return product if bodies == product.bodies else replace(product, bodies=bodies)


def _sheets(body: Body, store: BlobStore) -> Iterator[Body]:
    """The shells of a solid as bodies; the first keeps its id."""
    if not store.has(body.blob, _KIND):
        shells = shells_of(shape_from_blob(store.get(body.blob)))
        made = [(store.put(shape_to_blob(shell)), len(faces_of(shell))) for shell in shells]
        store.put_as(body.blob, _KIND, json.dumps(made).encode())
    shells_made = json.loads(store.get_as(body.blob, _KIND))
    start = 0
    for number, (blob, count) in enumerate(shells_made):
        faces = range(start, start + count)
        start += count
        yield replace(
            body,
            id=body.id if not number else f"{body.id}/{number + 1}",
            kind=BodyKind.SHEET,
            blob=blob,
            witness=None,
            metadata=() if number else body.metadata,
            edge_colours=body.edge_colours if len(shells_made) == 1 else (),
            face_colours=_of(body.face_colours, faces),
            face_names=_of(body.face_names, faces),
            face_layers=_of(body.face_layers, faces),
            face_metadata=_of(body.face_metadata, faces),
            face_appearance=_of(body.face_appearance, faces),
        )


def _of(said: tuple[tuple[int, Any], ...], faces: range) -> tuple[tuple[int, Any], ...]:
    """What is said of some faces, counted from the first of them."""
    return tuple((index - faces.start, value) for index, value in said if index in faces)
