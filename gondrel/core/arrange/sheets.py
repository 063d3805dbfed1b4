"""Solids as sheets of their faces, for receivers that take surfaces only."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from gondrel.core.kernel.base.shape import faces_of, shape_from_blob, shape_to_blob, shells_of
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.carries import EDGE_COLOURS, Fated
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
        pieces: by body id, the solid and how many faces each sheet has that it became, one for each shell.
    """

    model: Model
    pieces: Mapping[str, tuple[Body, tuple[int, ...]]]

    def fates(self) -> Iterator[Fated]:
        """What becomes of the solids."""
        for identity, (body, shells) in self.pieces.items():
            more = len(shells) - 1
            yield ("bodies", identity, "body"), (Fate.ALTERED, _WHY, more)
            text = f"; its {len(shells)} shells become bodies" if more else ""
            yield ("geometry", identity, "shape"), (Fate.ALTERED, f"a sheet encloses no volume{text}")
            if not more:
                continue
            yield ("colours", identity, EDGE_COLOURS), (Fate.LOST, f"{_WHY}{text}")
            for (thing, aspect), said in _of_faces(body):
                beyond = sum(index >= shells[0] for index, _ in said)
                if beyond:
                    fate = Fate.LOST if beyond == len(said) else Fate.ALTERED
                    yield (
                        (thing, identity, aspect),
                        (fate, f"some of the faces are in bodies beside it{text}"),
                    )


def sheets_of_solids(model: Model, store: BlobStore, *, progress: Progress = SILENT) -> Opened:
    """Every solid of a model as sheets of the same faces in the same order, one for each shell.

    Raises:
        KernelRefused: when the kernel fails over a body.
    """
    pieces: dict[str, tuple[Body, tuple[int, ...]]] = {}
    products = []
    for product in progress.each(model.products, "Making sheets of solids"):
        bodies: list[Body] = []
        for body in product.bodies:
            if body.kind is not BodyKind.SOLID:
                bodies.append(body)
                continue
            shells = _shells(body, store)
            pieces[body.id] = body, tuple(count for _, count in shells)
            bodies += _sheets(body, shells)
        products.append(replace(product, bodies=tuple(bodies)))
    return Opened(replace(model, products=tuple(products)), pieces)


def _of_faces(body: Body) -> Iterator[tuple[tuple[str, str], tuple[tuple[int, Any], ...]]]:
    """What is said of single faces, by thing and aspect."""
    yield ("colours", "face colours"), body.face_colours
    yield ("names", "face names"), body.face_names
    yield ("layers", "face layers"), body.face_layers
    yield ("metadata", "face properties"), body.face_metadata


def _shells(body: Body, store: BlobStore) -> list[tuple[str, int]]:
    """The blob and the count of faces of each shell of a solid, made once."""
    if not store.has(body.blob, _KIND):
        shells = shells_of(shape_from_blob(store.get(body.blob)))
        made = [(store.put(shape_to_blob(shell)), len(faces_of(shell))) for shell in shells]
        store.put_as(body.blob, _KIND, json.dumps(made).encode())
    return [(blob, count) for blob, count in json.loads(store.get_as(body.blob, _KIND))]


def _sheets(body: Body, shells: list[tuple[str, int]]) -> Iterator[Body]:
    """The shells of a solid as bodies; the first keeps its id."""
    start = 0
    for number, (blob, count) in enumerate(shells):
        faces = range(start, start + count)
        start += count
        yield replace(
            body,
            id=body.id if not number else f"{body.id}/{number + 1}",
            kind=BodyKind.SHEET,
            blob=blob,
            witness=None,
            metadata=() if number else body.metadata,
            edge_colours=body.edge_colours if len(shells) == 1 else (),
            face_colours=_of(body.face_colours, faces),
            face_names=_of(body.face_names, faces),
            face_layers=_of(body.face_layers, faces),
            face_metadata=_of(body.face_metadata, faces),
            face_appearance=_of(body.face_appearance, faces),
        )


def _of(said: tuple[tuple[int, Any], ...], faces: range) -> tuple[tuple[int, Any], ...]:
    """What is said of some faces, counted from the first of them."""
    return tuple((index - faces.start, value) for index, value in said if index in faces)
