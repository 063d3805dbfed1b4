"""Mend the meshes of a model that bound no solid."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from gondrel.core.mends.mesh import mend_mesh
from gondrel.core.model.body import BodyKind
from gondrel.core.model.facets import Facets
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress

__all__ = ["mend_meshes"]


def mend_meshes(
    model: Model, store_folder: str, *, progress: Progress = SILENT
) -> tuple[Model, tuple[str, ...]]:
    """The model with its meshes mended, and what was done to each and what is left, in words."""
    store = BlobStore(Path(store_folder))
    refusals: list[str] = []
    mended: dict[str, str] = {}
    broken = [
        (p, b, mesh)
        for p, b in model.bodies()
        if b.kind is BodyKind.MESH and (mesh := Facets.from_bytes(store.get(b.blob))).flaws()
    ]
    healed: set[str] = set()
    for product, body, mesh in progress.each(broken, "Mending meshes"):
        result = mend_mesh(mesh)
        name = body.name or product.label
        left = f"; still {'; '.join(map(str, result.left))}" if result.left else ""
        refusals.append(f"{name}: {', '.join(result.done) or 'nothing could be done'}{left}")
        if result.done:
            mended[body.id] = store.put(result.facets.to_bytes())
        if not result.left:
            healed |= {body.name, product.label}
    products = tuple(
        replace(p, bodies=tuple(replace(b, blob=mended.get(b.id, b.blob)) for b in p.bodies))
        for p in model.products
    )
    notes = tuple(n for n in model.notes if n.code != "mesh-not-closed" or n.where not in healed)
    return replace(model, products=products, notes=notes), tuple(refusals)
