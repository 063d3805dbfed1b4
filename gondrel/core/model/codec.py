"""Model data to plain JSON values and back."""

from __future__ import annotations

from typing import Any, TypeVar

import cattrs
from cattrs.gen import make_dict_structure_fn, make_dict_unstructure_fn

from gondrel.core.model.product import Metadatum
from gondrel.core.model.snapshot import Model

__all__ = ["from_plain", "to_plain"]

T = TypeVar("T")

_KINDS: dict[str, type] = {"text": str, "integer": int, "real": float, "boolean": bool}


def _plain_datum(datum: Metadatum) -> dict[str, Any]:
    plain: dict[str, Any] = {"key": datum.key, "kind": datum.type, "value": datum.value}
    if datum.measure or datum.unit:
        plain |= {"measure": datum.measure, "unit": datum.unit}
    return plain


def _converter() -> cattrs.Converter:
    converter = cattrs.Converter()
    converter.register_unstructure_hook(Metadatum, _plain_datum)
    converter.register_structure_hook(
        Metadatum,
        lambda d, _: Metadatum(
            d["key"], _KINDS[d["kind"]](d["value"]), d.get("measure", ""), d.get("unit", "")
        ),
    )
    converter.register_unstructure_hook(Model, make_dict_unstructure_fn(Model, converter))
    converter.register_structure_hook(Model, make_dict_structure_fn(Model, converter))
    return converter


_CONVERTER = _converter()


def to_plain(value: Any) -> Any:
    """Dictionaries, lists and numbers that json can write."""
    return _CONVERTER.unstructure(value)


def from_plain(plain: Any, kind: type[T]) -> T:
    """The dataclass again. Raises a cattrs error when the shape is wrong."""
    return _CONVERTER.structure(plain, kind)
