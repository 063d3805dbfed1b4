"""Edits of properties and looks. Each returns what was done, in words, and the new model."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Any

from gondrel.core.errors import UsageError
from gondrel.core.model.body import Rgba
from gondrel.core.model.product import Material, Metadatum, Product, Value
from gondrel.core.model.snapshot import Model

__all__ = [
    "TEXT_FIELDS",
    "Edit",
    "datum_of",
    "parse_value",
    "set_colour",
    "set_material",
    "set_metadata",
    "set_text",
    "with_datum",
    "with_feature_properties",
    "without_metadatum",
]

Edit = tuple[str, Model]
"""What was done, for the history, and the model it made."""

TEXT_FIELDS = {
    "number": "number",
    "name": "name",
    "revision": "revision",
    "description": "description",
}
"""Text fields of a product and how each is called in the history."""

_MIXED = "several items"


def _chosen(model: Model, ids: Iterable[str]) -> list[Product]:
    products = [model.by_id[i] for i in dict.fromkeys(ids) if i in model.by_id]
    if not products:
        raise UsageError("nothing is selected to change")
    return products


def _with_all(model: Model, changed: Iterable[Product]) -> Model:
    by_id = {product.id: product for product in changed}
    return replace(model, products=tuple(by_id.get(p.id, p) for p in model.products))


def _whom(products: list[Product]) -> str:
    return products[0].label if len(products) == 1 else _MIXED


def set_text(model: Model, ids: Iterable[str], field: str, text: str) -> Edit:
    """Set a text field (number, name, revision, description) of products.

    Raises:
        UsageError: for an unknown field or when nothing is selected.
    """
    if field not in TEXT_FIELDS:
        raise UsageError(f"there is no field {field!r}", hint=", ".join(TEXT_FIELDS))
    products = _chosen(model, ids)
    value = text.strip()
    fields: dict[str, Any] = {field: value}
    changed = [replace(p, **fields) for p in products]
    what = f"Set {TEXT_FIELDS[field]} of {_whom(products)} to {value or 'nothing'}"
    return what, _with_all(model, changed)


def set_material(model: Model, ids: Iterable[str], name: str, density: float | None) -> Edit:
    """Set the material of products; an empty name takes it away.

    Args:
        density: kg/m3, None when it is not known.

    Raises:
        UsageError: when the density is not positive or nothing is selected.
    """
    if density is not None and density <= 0:
        raise UsageError(f"a density must be more than 0 kg/m3 (got {density:g})")
    products = _chosen(model, ids)
    cleaned = name.strip()

    def with_material(product: Product) -> Product:
        if not cleaned:
            return replace(product, material=None)
        before = product.material
        keeps = before is not None and before.name == cleaned
        description = before.description if before is not None and keeps else ""
        return replace(product, material=Material(cleaned, density, description))

    changed = [with_material(p) for p in products]
    return f"Set material of {_whom(products)} to {cleaned or 'none'}", _with_all(model, changed)


def set_colour(model: Model, ids: Iterable[str], colour: Rgba | None, *, faces: bool = False) -> Edit:
    """Set the colour of all bodies of products, None to take it away.

    Args:
        faces: whether colours of single faces are dropped too, else they stay.

    Raises:
        UsageError: when nothing is selected or none of it has a body.
    """
    products = [p for p in _chosen(model, ids) if p.bodies]
    if not products:
        raise UsageError("an assembly has no colour of its own; choose its parts")
    changed = []
    for product in products:
        bodies = tuple(
            replace(b, colour=colour, face_colours=() if faces else b.face_colours) for b in product.bodies
        )
        changed.append(replace(product, bodies=bodies))
    said = colour.label if colour is not None else "none"
    return f"Set colour of {_whom(products)} to {said}", _with_all(model, changed)


def set_metadata(model: Model, ids: Iterable[str], key: str, value: Value) -> Edit:
    """Give products a property, replacing the first of the same key.

    Raises:
        UsageError: when the key is empty or nothing is selected.
    """
    datum = datum_of(key, value)
    products = _chosen(model, ids)
    changed = [replace(p, metadata=with_datum(p.metadata, datum)) for p in products]
    return f"Set {datum.key} of {_whom(products)} to {value}", _with_all(model, changed)


def with_feature_properties(model: Model, found: Mapping[str, Mapping[str, int]]) -> Edit:
    """Keep how many features of each kind parts have as properties of them.

    Args:
        found: counts by kind, by the id of the product.
    """
    changed = []
    for key, counts in found.items():
        product = model.product(key)
        data = product.metadata
        for kind, count in counts.items():
            data = with_datum(data, datum_of(f"Features: {kind}", count))
        changed.append(replace(product, metadata=data))
    return f"Keep features of {len(changed)} parts as properties", _with_all(model, changed)


def datum_of(key: str, value: Value) -> Metadatum:
    """A property of a name and a value. Raises UsageError when the name is empty."""
    cleaned = key.strip()
    if not cleaned:
        raise UsageError("a property needs a name")
    return Metadatum(cleaned, value)


def with_datum(metadata: tuple[Metadatum, ...], datum: Metadatum) -> tuple[Metadatum, ...]:
    """Metadata with one more, or with the first of the same key replaced."""
    kept = list(metadata)
    at = next((i for i, m in enumerate(kept) if m.key == datum.key), None)
    if at is None:
        kept.append(datum)
    else:
        kept[at] = datum
    return tuple(kept)


def without_metadatum(model: Model, ids: Iterable[str], key: str) -> Edit:
    """Take a property away from products. Raises UsageError when nothing is selected."""
    products = _chosen(model, ids)
    changed = [replace(p, metadata=tuple(m for m in p.metadata if m.key != key)) for p in products]
    return f"Remove {key} of {_whom(products)}", _with_all(model, changed)


def parse_value(text: str, kind: str) -> Value:
    """A typed value from text; kind is text, integer, real or boolean.

    Raises:
        UsageError: when the text does not say such a value.

    Example:
        >>> parse_value("12", "integer"), parse_value("yes", "boolean")
        (12, True)
    """
    cleaned = text.strip()
    try:
        if kind == "integer":
            return int(cleaned)
        if kind == "real":
            return float(cleaned.replace(",", "."))
    except ValueError:
        raise UsageError(f"{cleaned!r} is not {'a whole' if kind == 'integer' else 'a'} number") from None
    if kind == "boolean":
        words = {"yes": True, "true": True, "no": False, "false": False}
        if cleaned.lower() not in words:
            raise UsageError(f"{cleaned!r} is neither yes nor no")
        return words[cleaned.lower()]
    return text
