"""Small assemblies for registers: two gears that share a shaft set with a pinion."""

from __future__ import annotations

from dataclasses import replace

from gondrel.core.kernel.base.shape import shape_to_blob
from gondrel.core.kernel.modelling.build import block, cylinder
from gondrel.core.model import Body, BodyKind, Model, Occurrence, Product
from gondrel.core.model.store import BlobStore

SHIFT = (1.0, 0, 0, 10.0, 0, 1.0, 0, 0, 0, 0, 1.0, 0, 0, 0, 0, 1.0)


def part(store: BlobStore, number: str, shape, name: str = "") -> Product:
    body = Body("b", BodyKind.SOLID, name or number, store.put(shape_to_blob(shape)))
    return Product(number, number, name or number, bodies=(body,))


def assembly(number: str, *children: str, name: str = "") -> Product:
    uses = tuple(
        Occurrence(f"{number}-{n}", child, f"{child} {n}", SHIFT) for n, child in enumerate(children)
    )
    return Product(number, number, name or number, occurrences=uses)


def two_gears(store: BlobStore, pinion: float = 10.0) -> Model:
    """Gear north and gear south, each with the shaft set, which has a shaft and two pinions."""
    products = (
        assembly("GN", "SS", "CASE"),
        assembly("GS", "SS", "CASE"),
        assembly("SS", "SH", "PI", "PI"),
        part(store, "SH", cylinder(5, 80), "Shaft"),
        part(store, "PI", cylinder(pinion, 20), "Pinion"),
        part(store, "CASE", block(60, 40, 30), "Case"),
    )
    return Model(products=products, roots=("GN", "GS"))


def with_pinion(model: Model, store: BlobStore, radius: float) -> Model:
    other = part(store, "PI", cylinder(radius, 20), "Pinion")
    return replace(model, products=tuple(other if p.id == "PI" else p for p in model.products))
