"""What formats without a place of their own for it carry as one text: particulars, references, visibility.

The text is JSON of plain ASCII, so that it goes through formats that spell nothing else.
"""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

import cattrs

from gondrel.core.model.appearance import Appearance
from gondrel.core.model.body import Body
from gondrel.core.model.codec import from_plain, to_plain
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.particulars import KINDS, Particular
from gondrel.core.model.product import Material, Occurrence, Product, Reference
from gondrel.core.model.snapshot import Model

__all__ = [
    "body_extra", "face_extra", "face_extra_in", "model_extra", "product_extra", "use_extra",
    "with_body_extra", "with_model_extra", "with_product_extra", "with_use_extra",
]  # fmt: skip


def product_extra(product: Product) -> str:
    """The text of a product, empty when it has nothing of the kind."""
    material = product.material.properties if product.material is not None else ()
    return _text(
        particulars=product.particulars, references=product.references, material=material,
        measured=_measured(product.metadata),
    )  # fmt: skip


def with_product_extra(product: Product, text: str) -> Product:
    """The product with what such a text says; unchanged where it says nothing that makes sense."""
    extra = _Found(text)
    properties = extra.all("material", Metadatum)
    material = product.material
    if properties:
        material = replace(material or Material(""), properties=properties)
    return replace(
        product,
        particulars=_known(extra.all("particulars", Particular)) or product.particulars,
        references=extra.all("references", Reference) or product.references,
        material=material,
        metadata=extra.measured(product.metadata),
    )


def use_extra(use: Occurrence) -> str:
    """The text of a component."""
    return _text(particulars=use.particulars, hidden=use.hidden, measured=_measured(use.metadata))


def with_use_extra(use: Occurrence, text: str) -> Occurrence:
    """The component with what such a text says."""
    extra = _Found(text)
    particulars = _known(extra.all("particulars", Particular)) or use.particulars
    hidden = extra.is_true("hidden") or use.hidden
    return replace(use, particulars=particulars, hidden=hidden, metadata=extra.measured(use.metadata))


def body_extra(body: Body) -> str:
    """The text of a body."""
    return _text(metadata=body.metadata, hidden=body.hidden, looks=body.appearance)


def with_body_extra(body: Body, text: str) -> Body:
    """The body with what such a text says."""
    extra = _Found(text)
    return replace(
        body,
        metadata=extra.all("metadata", Metadatum) or body.metadata,
        hidden=extra.is_true("hidden") or body.hidden,
        appearance=extra.all("looks", Appearance) or body.appearance,
    )


def face_extra(body: Body, *faces: int) -> str:
    """The text of the properties and further looks of a face that was made of some faces of a body."""
    return _text(
        metadata=tuple(datum for face, datum in body.face_metadata if face in faces),
        looks=tuple(look for face, look in body.face_appearance if face in faces),
    )


def face_extra_in(text: str) -> tuple[tuple[Metadatum, ...], tuple[Appearance, ...]]:
    """The properties and further looks that such a text says."""
    extra = _Found(text)
    return extra.all("metadata", Metadatum), extra.all("looks", Appearance)


def model_extra(model: Model) -> str:
    """The text of what is said of the layers of a model."""
    return _text(particulars=model.particulars)


def with_model_extra(model: Model, text: str) -> Model:
    """The model with what such a text says."""
    extra = _known(_Found(text).all("particulars", Particular))
    return replace(model, particulars=(*model.particulars, *extra))


def _text(**said: Any) -> str:
    plain = {key: to_plain(value) for key, value in said.items() if value}
    return json.dumps(plain, separators=(",", ":")) if plain else ""


def _measured(metadata: tuple[Metadatum, ...]) -> list[list[Any]]:
    """Place, measure and unit of the properties that have one."""
    return [[i, d.measure, d.unit] for i, d in enumerate(metadata) if d.measure]


def _known(particulars: tuple[Particular, ...]) -> tuple[Particular, ...]:
    return tuple(p for p in particulars if p.kind in KINDS and len(p.values) == len(KINDS[p.kind].fields))


class _Found:
    def __init__(self, text: str) -> None:
        try:
            plain = json.loads(text) if text else {}
        except (ValueError, RecursionError):
            plain = {}
        self.plain: dict[str, Any] = plain if isinstance(plain, dict) else {}

    def all(self, key: str, kind: type[Any]) -> tuple[Any, ...]:
        """The values of a key; none where they are not of the kind."""
        try:
            values: tuple[Any, ...] = from_plain(self.plain.get(key, ()), tuple[kind, ...])  # type: ignore[valid-type]
        except (cattrs.BaseValidationError, KeyError, TypeError, ValueError):
            return ()
        return values

    def measured(self, metadata: tuple[Metadatum, ...]) -> tuple[Metadatum, ...]:
        """Properties with their measures and units, as `_measured` has them."""
        kept = list(metadata)
        listed = self.plain.get("measured", ())
        for each in listed if isinstance(listed, list) else ():
            match each:
                case [int(place), str(measure), str(unit)] if 0 <= place < len(kept):
                    kept[place] = replace(kept[place], measure=measure, unit=unit)
        return tuple(kept)

    def is_true(self, key: str) -> bool:
        return self.plain.get(key) is True
