"""Everything a model has that can be carried or lost, item by item."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from gondrel.core.carriage.aspects import (
    FACEWISE,
    Said,
    datum_text,
    of_body,
    of_faces,
    of_model,
    of_product,
    of_use,
    ranked,
    shown,
)
from gondrel.core.model.carries import EDGE_COLOURS, OWN_COLOURS, THINGS
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.product import Material, Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["NO_UNIT", "Item", "Key", "inventory", "material_text", "place_of"]

Key = tuple[str, str, str]
"""Thing, id of the subject in the meant model, aspect of it."""


@dataclass(frozen=True, slots=True)
class Item:
    """One carried item.

    Args:
        thing: one of THINGS; subject: id of a product, occurrence or body, "" for the whole.
        aspect: what of the subject it is.
        path: where it is, for people.
        text: its value, for people.
        weight: how many countable things it stands for (faces of a body, say).
        products: ids of the products concerned, for marking them on screen.
    """

    thing: str
    subject: str
    aspect: str
    path: str
    text: str
    weight: int = 1
    products: tuple[str, ...] = ()

    @property
    def key(self) -> Key:
        """What the item is told apart by."""
        return (self.thing, self.subject, self.aspect)

    @property
    def what(self) -> str:
        """The aspect in the words people read."""
        return (
            OWN_COLOURS.removesuffix(" of ") if self.aspect.startswith(OWN_COLOURS) else shown(self.aspect)
        )


NO_UNIT = "none said"
"""What is told of the unit of a file that says none."""


def material_text(material: Material | None) -> str:
    """A material in words, empty for none."""
    if material is None:
        return ""
    density = f"{material.density:g} kg/m3" if material.density is not None else ""
    return ", ".join(part for part in (material.name, density) if part)


def inventory(model: Model) -> dict[Key, Item]:
    """Every item of a model by its key, in the order of the ledger and of the model."""
    items = [Item("units", "", "length unit", "whole model", model.unit_told or NO_UNIT)]
    for root in model.roots:
        if root in model.by_id:
            label = model.product(root).label
            items.append(Item("structure", root, "root", label, "stands on its own", 1, (root,)))
    for product in model.products:
        items += _of_product(product)
        items += _of_bodies(product)
        for occurrence in product.occurrences:
            items += _of_occurrence(model, product, occurrence)
    for said in of_model(model):
        items.append(Item(said.thing, "", said.aspect, place_of(said.thing), said.text))
    census = model.provenance.census if model.provenance is not None else None
    for rest in (*census.rest, *census.besides) if census is not None else ():
        where = f"{rest.kind} ({', '.join(rest.where)})" if rest.where else rest.kind
        items.append(Item("remainder", "", rest.aspect, where, f"{rest.count} {rest.type}", rest.count))
    order = {thing: index for index, thing in enumerate(THINGS)}
    items.sort(key=lambda item: order[item.thing])
    return {item.key: item for item in items}


def place_of(thing: str) -> str:
    """Where something is that is said of the model as a whole."""
    return "layers" if thing == "layers" else "whole model"


def _of_product(product: Product) -> Iterator[Item]:
    label, ids = product.label, (product.id,)
    for thing, aspect, text in (
        ("names", "product name", product.name),
        ("numbers", "number", product.number),
        ("revisions", "revision", product.revision),
        ("materials", "material", material_text(product.material)),
        ("metadata", "description", product.description),
    ):
        if text:
            yield Item(thing, product.id, aspect, label, text, 1, ids)
    yield from _metadata(product.metadata, product.id, label, ids)
    yield from _said(of_product(product), product.id, label, ids)
    if product.validation is not None:
        yield Item("validation", product.id, "figures", label, "validation figures", 1, ids)


def _of_bodies(product: Product) -> Iterator[Item]:
    ids = (product.id,)
    for index, body in enumerate(product.bodies, 1):
        alone = len(product.bodies) == 1 and body.name in ("", product.label)
        path = product.label if alone else f"{product.label} / {body.name or f'body {index}'}"
        yield Item("bodies", body.id, "body", path, body.kind.value, 1, ids)
        yield Item("geometry", body.id, "shape", path, body.kind.value, 1, ids)
        if body.name:
            yield Item("names", body.id, "body name", path, body.name, 1, ids)
        if body.colour is not None:
            yield Item("colours", body.id, "body colour", path, body.colour.label, 1, ids)
        if body.face_colours:
            count = len(body.face_colours)
            yield Item("colours", body.id, "face colours", path, f"{count} faces", count, ids)
        for layer in body.layers:
            yield Item("layers", body.id, f"layer {layer}", path, layer, 1, ids)
        yield from _said(of_body(body), body.id, path, ids)
        for aspect, texts in of_faces(body).items():
            word = ("edge" if aspect == EDGE_COLOURS else "face") + "s" * (len(texts) != 1)
            text = f"{len(texts)} {word}: {', '.join(sorted(set(texts.values()))[:5])}"
            yield Item(FACEWISE[aspect], body.id, aspect, path, text, len(texts), ids)


def _of_occurrence(model: Model, parent: Product, occurrence: Occurrence) -> Iterator[Item]:
    child = model.by_id.get(occurrence.product)
    label = occurrence.name or (child.label if child else occurrence.id)
    path = f"{parent.label} / {label}"
    ids = (occurrence.product, parent.id)
    yield Item("structure", occurrence.id, "component", path, child.label if child else "?", 1, ids)
    yield Item("placement", occurrence.id, "place", path, "placed", 1, ids)
    if occurrence.name:
        yield Item("names", occurrence.id, "occurrence name", path, occurrence.name, 1, ids)
    if occurrence.colour is not None:
        text = occurrence.colour.label
        yield Item("colours", occurrence.id, "occurrence colour", path, text, 1, ids)
    for body_id in dict.fromkeys(body for body, _, _ in occurrence.own_colours):
        own = [colour.label for body, _, colour in occurrence.own_colours if body == body_id]
        text = f"{', '.join(sorted(set(own))[:5])} in this place alone"
        yield Item("colours", occurrence.id, OWN_COLOURS + body_id, path, text, len(own), ids)
    if occurrence.centroid is not None:
        text = "centroid in its assembly"
        yield Item("validation", occurrence.id, "centroid", path, text, 1, ids)
    yield from _metadata(occurrence.metadata, occurrence.id, path, ids)
    yield from _said(of_use(occurrence), occurrence.id, path, ids)


def _metadata(
    metadata: tuple[Metadatum, ...], subject: str, path: str, ids: tuple[str, ...]
) -> Iterator[Item]:
    for aspect, datum in zip(ranked(datum.key for datum in metadata), metadata, strict=True):
        yield Item("metadata", subject, aspect, f"{path}: {datum.key}", datum_text(datum), 1, ids)


def _said(several: Iterable[Said], subject: str, path: str, ids: tuple[str, ...]) -> Iterator[Item]:
    for said in several:
        yield Item(said.thing, subject, said.aspect, f"{path}: {shown(said.aspect)}", said.text, 1, ids)
