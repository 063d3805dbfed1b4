"""Mesh bodies as solids of merged faces, for receivers and for work that need a B-rep."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from gondrel.core.errors import KernelRefused
from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.mesh.solidify import make_solids
from gondrel.core.model.body import Body, BodyKind
from gondrel.core.model.facets import Facets
from gondrel.core.model.provenance import Note
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["Solidification", "solids_of_meshes"]


@dataclass(frozen=True, slots=True)
class Solidification:
    """A model whose meshes have become solids.

    Args:
        made_solid: by body id, how many facets became how many faces, and how far they lie off.
        refused: by body id, why no solid could be made; the mesh stays.
    """

    model: Model
    made_solid: Mapping[str, str]
    refused: Mapping[str, str]

    def notes(self) -> Iterator[Note]:
        """What was done and what was not, for people."""
        names = {body.id: body.name or product.label for product, body in self.model.bodies()}
        for body, text in self.made_solid.items():
            yield Note("mesh-became-solid", text, names.get(body, ""))
        for body, text in self.refused.items():
            yield Note("mesh-not-solid", text, names.get(body, ""))


def solids_of_meshes(
    model: Model, store: BlobStore, *, shaped: bool, progress: Progress = SILENT
) -> Solidification:
    """Every closed mesh of a model as a solid.

    Args:
        shaped: whether cylinders are recognised.
    """
    made_solid: dict[str, str] = {}
    refused: dict[str, str] = {}
    meshes = [body for _, body in model.bodies() if body.kind is BodyKind.MESH]
    made = {b.id: _made(store, b, shaped) for b in progress.each(meshes, "Making solids of meshes")}
    products = []
    for product in model.products:
        bodies = []
        for body in product.bodies:
            if body.id not in made:
                bodies.append(body)
                continue
            blob, text = made[body.id]
            (made_solid if blob else refused)[body.id] = text
            solid = replace(body.without_parts(), kind=BodyKind.SOLID, blob=blob)
            bodies.append(solid if blob else body)
        products.append(replace(product, bodies=tuple(bodies)))
    return Solidification(replace(model, products=tuple(products)), made_solid, refused)


def _made(store: BlobStore, body: Body, shaped: bool) -> tuple[str, str]:
    """The hash of the solid and what to tell, or an empty hash and why not; made once."""
    key = "solid-shaped" if shaped else "solid-plane"
    if not store.has(body.blob, key):
        try:
            made = make_solids(Facets.from_bytes(store.get(body.blob)), shaped=shaped)
            if len(made.shapes) > 1:
                raise KernelRefused(
                    f"the mesh bounds {len(made.shapes)} solids; split it into bodies first"
                )
            kept = store.put(shape_to_blob(made.shapes[0])), str(made)
        except KernelRefused as error:
            kept = "", error.message
        store.put_as(body.blob, key, json.dumps(kept).encode())
    blob, text = json.loads(store.get_as(body.blob, key))
    return blob, text
