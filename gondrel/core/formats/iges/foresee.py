"""What becomes of single bodies and texts in IGES."""

from __future__ import annotations

from collections.abc import Iterator

from gondrel.core.formats.base import Target
from gondrel.core.formats.iges.compose import ascii_of
from gondrel.core.formats.iges.plan import plan_of
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.body import Body
from gondrel.core.model.carries import Fated
from gondrel.core.model.product import Metadatum, Occurrence, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.verdicts import Fate
from gondrel.core.work import SILENT, Progress

__all__ = ["foresee"]

_SPELLING = "IGES spells only plain ASCII: it becomes"


def foresee(
    model: Model, store: BlobStore, target: Target, settings: SendSettings, *, progress: Progress = SILENT
) -> Iterator[Fated]:
    """Item key, fate and why of everything that does not simply go across.

    Raises:
        KernelRefused: when a body can't be measured.
    """
    as_solid = target.kind == "iges-solid"
    for _, body in progress.each(list(model.bodies()), "Trying bodies out"):
        yield from _body(store, body, settings.unit.key, as_solid)
    for product in model.products:
        yield from _product(product)
        for occurrence in product.occurrences:
            yield from _occurrence(occurrence)


def _body(store: BlobStore, body: Body, unit: str, as_solid: bool) -> Iterator[Fated]:
    plan = plan_of(store, body, unit, as_solid=as_solid)
    if plan.refused:
        yield ("bodies", body.id, "body"), (Fate.LOST, f"it can't be written: {plan.refused}")
        return
    more = plan.count - 1
    if plan.kind != body.kind.value:
        yield ("bodies", body.id, "body"), (Fate.ALTERED, f"it comes back as a {plan.kind}", more)
    elif more:
        yield ("bodies", body.id, "body"), (Fate.CARRIED, "", more)
    if plan.count > 1:
        yield ("geometry", body.id, "shape"), (Fate.ALTERED, f"it comes back as {plan.count} bodies")
    elif plan.changes:
        yield ("geometry", body.id, "shape"), (Fate.ALTERED, plan.changes)
    if body.colour is not None and body.colour.alpha < 1.0:
        yield ("colours", body.id, "body colour"), (Fate.ALTERED, "IGES has no transparency")
    if any(colour.alpha < 1.0 for _, colour in body.face_colours):
        seen = {colour.alpha for _, colour in body.face_colours}
        own = body.colour is not None and body.colour.alpha == 1.0
        fate = Fate.ALTERED if own or seen else Fate.LOST
        yield ("colours", body.id, "face colours"), (fate, "IGES has no transparency")
    if plan.count > 1 and body.name:
        yield ("names", body.id, "body name"), (Fate.ALTERED, "its pieces are numbered")
    else:
        yield from _text("names", body.id, "body name", body.name)
    yield from _faces(body)
    for layer in body.layers:
        yield from _text("layers", body.id, f"layer {layer}", layer)


def _faces(body: Body) -> Iterator[Fated]:
    """What is said of single faces, where it does not come back as it is."""
    for aspect, thing, texts in (
        ("face names", "names", [name for _, name in body.face_names]),
        ("face layers", "layers", [layer for _, layer in body.face_layers]),
    ):
        strange = next((text for text in texts if ascii_of(text) != text), None)
        if strange is not None:
            yield (thing, body.id, aspect), (Fate.ALTERED, f"{_SPELLING} {ascii_of(strange)}")
    if any(layer in body.layers for _, layer in body.face_layers):
        why = "a face on a layer that its body is on counts as being there with the body"
        yield ("layers", body.id, "face layers"), (Fate.ALTERED, why)


def _product(product: Product) -> Iterator[Fated]:
    for thing, aspect, text in (
        ("names", "product name", product.name),
        ("numbers", "number", product.number),
        ("revisions", "revision", product.revision),
        ("materials", "material", product.material.name if product.material else ""),
        ("metadata", "description", product.description),
    ):
        yield from _text(thing, product.id, aspect, text)
    yield from _metadata(product.id, product.metadata)


def _occurrence(occurrence: Occurrence) -> Iterator[Fated]:
    yield from _text("names", occurrence.id, "occurrence name", occurrence.name)
    if occurrence.colour is not None and occurrence.colour.alpha < 1.0:
        why = "IGES has no transparency"
        yield ("colours", occurrence.id, "occurrence colour"), (Fate.ALTERED, why)
    for layer in occurrence.layers:
        yield from _text("layers", occurrence.id, f"on layer {layer}", layer)
    yield from _metadata(occurrence.id, occurrence.metadata)


def _metadata(subject: str, metadata: tuple[Metadatum, ...]) -> Iterator[Fated]:
    seen: dict[str, int] = {}
    for datum in metadata:
        seen[datum.key] = seen.get(datum.key, 0) + 1
        aspect = f"{datum.key}#{seen[datum.key]}"
        if ascii_of(datum.key) != datum.key:
            why = f"IGES spells only plain ASCII: the key becomes {ascii_of(datum.key)}"
            yield ("metadata", subject, aspect), (Fate.LOST, why)
        elif isinstance(datum.value, str):
            yield from _text("metadata", subject, aspect, datum.value)


def _text(thing: str, subject: str, aspect: str, text: str) -> Iterator[Fated]:
    plain = ascii_of(text)
    if plain != text:
        yield (thing, subject, aspect), (Fate.ALTERED, f"{_SPELLING} {plain}")
