"""Model data to plain JSON values and back."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any, TypeVar

import cattrs
from cattrs.gen import make_dict_structure_fn, make_dict_unstructure_fn

from gondrel.core.model.product import Metadatum, Occurrence
from gondrel.core.model.snapshot import Model

__all__ = ["from_plain", "to_plain"]

T = TypeVar("T")

_KINDS: dict[str, type] = {"text": str, "integer": int, "real": float, "boolean": bool}


def _plain_datum(datum: Metadatum) -> dict[str, Any]:
    plain: dict[str, Any] = {"key": datum.key, "kind": datum.type, "value": datum.value}
    if datum.measure or datum.unit:
        plain |= {"measure": datum.measure, "unit": datum.unit}
    return plain


class _Own(threading.local):
    """What each thread has called between the components of a model that it makes plain."""

    turn: Callable[[], None] | None = None


_OWN = _Own()


def _converter() -> cattrs.Converter:
    converter = cattrs.Converter()
    converter.register_unstructure_hook(Metadatum, _plain_datum)
    converter.register_structure_hook(
        Metadatum,
        lambda d, _: Metadatum(
            d["key"], _KINDS[d["kind"]](d["value"]), d.get("measure", ""), d.get("unit", "")
        ),
    )
    plain_use = make_dict_unstructure_fn(Occurrence, converter)

    def in_turns(use: Occurrence) -> dict[str, Any]:
        if _OWN.turn is not None:
            _OWN.turn()
        return plain_use(use)

    converter.register_unstructure_hook(Occurrence, in_turns)
    converter.register_unstructure_hook(Model, make_dict_unstructure_fn(Model, converter))
    converter.register_structure_hook(Model, make_dict_structure_fn(Model, converter))
    return converter


_CONVERTER = _converter()


def to_plain(value: Any, turn: Callable[[], None] | None = None) -> Any:
    """Dictionaries, lists and numbers that json can write.

    Args:
        turn: called before each component of a model, that others have their turn in a long work.
    """
    _OWN.turn = turn
    try:
        return _CONVERTER.unstructure(value)
    finally:
        _OWN.turn = None


def from_plain(plain: Any, kind: type[T]) -> T:
    """The dataclass again. Raises a cattrs error when the shape is wrong."""
    return _CONVERTER.structure(plain, kind)
