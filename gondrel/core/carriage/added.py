"""What came back and was not sent: names, numbers, looks, layers and properties that items have gained."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator

from gondrel.core.carriage.aspects import (
    FACEWISE,
    Said,
    datum_text,
    of_body,
    of_faces,
    of_model,
    of_product,
    of_use,
)
from gondrel.core.carriage.inventory import Item, material_text, place_of
from gondrel.core.carriage.ledger import Compared
from gondrel.core.model.body import Body
from gondrel.core.model.carries import EDGE_COLOURS
from gondrel.core.model.product import Metadatum, Occurrence, Product
from gondrel.core.model.snapshot import Model

__all__ = ["RETURNED", "added_items"]

RETURNED = "returned:"
"""How the ids of items begin that only the returned model has."""

Gained = tuple[str, str, str]
"""Thing, aspect and value of what was gained."""


def added_items(
    products: Iterable[tuple[Product, Product]],
    bodies: Iterable[tuple[Product, Body, Body]],
    uses: Iterable[tuple[Product, Occurrence, Occurrence]],
    models: tuple[Model, Model],
) -> Iterator[Compared]:
    """Everything that matched items have gained, one by one.

    Args:
        products, bodies, uses: what was sent and what came back of it, bodies and components with the
            product that holds them; the ids of those that came back are marked as returned already.
        models: what was sent and what came back as a whole.
    """
    for thing, aspect, text in _further(of_model(models[0]), of_model(models[1])):
        item = Item(thing, RETURNED, aspect, place_of(thing), "")
        yield Compared(item, "added", text, "not in the model sent", 1)
    for ours, theirs in products:
        for gained in _of_product(ours, theirs):
            yield _added(gained, RETURNED + theirs.id, theirs.label, ours.id, theirs.id)
    for holder, body, back in bodies:
        path = f"{holder.label} / {back.name}" if back.name else holder.label
        for gained in _of_body(holder, body, back):
            yield _added(gained, back.id, path, holder.id, holder.id)
    for parent, use, again in uses:
        path = f"{parent.label} / {again.name or again.product}"
        for gained in _of_use(use, again):
            yield _added(gained, again.id, path, use.product, again.product)


def _added(gained: Gained, subject: str, path: str, ours: str, theirs: str) -> Compared:
    thing, aspect, text = gained
    item = Item(thing, subject, aspect, path, "", 1, (ours,))
    return Compared(item, "added", text, "not in the model sent", 1, (theirs,))


def _of_product(ours: Product, theirs: Product) -> Iterator[Gained]:
    for thing, aspect, before, after in (
        ("names", "product name", ours.name, theirs.name),
        ("numbers", "number", ours.number, theirs.number),
        ("revisions", "revision", ours.revision, theirs.revision),
        ("metadata", "description", ours.description, theirs.description),
        ("materials", "material", material_text(ours.material), material_text(theirs.material)),
    ):
        if after and not before:
            yield thing, aspect, after
    if theirs.validation is not None and ours.validation is None:
        yield "validation", "figures", "validation figures"
    yield from _metadata(ours.metadata, theirs.metadata)
    yield from _further(of_product(ours), of_product(theirs))


def _further(ours: Iterable[Said], theirs: Iterable[Said]) -> Iterator[Gained]:
    """Aspects that were not said before."""
    known = {(said.thing, said.aspect) for said in ours}
    for said in theirs:
        if (said.thing, said.aspect) not in known:
            yield said.thing, said.aspect, said.text


def _of_body(holder: Product, ours: Body, theirs: Body) -> Iterator[Gained]:
    if theirs.name and not ours.name and theirs.name not in (holder.name, holder.number):
        yield "names", "body name", theirs.name
    if theirs.colour is not None and ours.colour is None and not ours.face_colours:
        yield "colours", "body colour", theirs.colour.label
    if theirs.face_colours and not ours.face_colours:
        yield "colours", "face colours", f"{len(theirs.face_colours)} faces"
    fresh = [layer for layer in theirs.layers if layer not in ours.layers]
    renamed = sum(layer not in theirs.layers for layer in ours.layers)  # told of those
    for layer in fresh[renamed:]:
        yield "layers", f"layer {layer}", layer
    yield from _further(of_body(ours), of_body(theirs))
    known = of_faces(ours)
    for aspect, texts in of_faces(theirs).items():
        if aspect not in known:
            word = "edges" if aspect == EDGE_COLOURS else "faces"
            yield FACEWISE[aspect], aspect, f"{len(texts)} {word}"


def _of_use(ours: Occurrence, theirs: Occurrence) -> Iterator[Gained]:
    if theirs.name and not ours.name:
        yield "names", "occurrence name", theirs.name
    if theirs.colour is not None and ours.colour is None:
        yield "colours", "occurrence colour", theirs.colour.label
    if theirs.own_colours and not ours.own_colours:
        yield "colours", "colours in this place", f"{len(theirs.own_colours)} faces and bodies"
    yield from _metadata(ours.metadata, theirs.metadata)
    yield from _further(of_use(ours), of_use(theirs))


def _metadata(ours: tuple[Metadatum, ...], theirs: tuple[Metadatum, ...]) -> Iterator[Gained]:
    """Keys that were not there, and further values of those that were."""
    left = Counter(datum.key for datum in ours)
    for datum in theirs:
        left[datum.key] -= 1
        if left[datum.key] < 0:
            yield "metadata", datum.key, datum_text(datum)
