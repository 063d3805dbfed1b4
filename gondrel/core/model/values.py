"""Nested plain values (dataclasses of known kinds, tuples, numbers, texts) as JSON and back.

Nothing that is read this way can do more than be a value, unlike a pickle.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import fields, is_dataclass
from typing import Any

__all__ = ["kinds_of", "values_from_json", "values_to_json"]


def kinds_of(*modules: Any) -> dict[str, type]:
    """The dataclasses that some modules offer, by name."""
    offered = (getattr(module, name) for module in modules for name in module.__all__)
    return {kind.__name__: kind for kind in offered if isinstance(kind, type) and is_dataclass(kind)}


def values_to_json(value: Any) -> bytes:
    """A value as JSON: a dataclass as an object of its name and its fields in order, a tuple as a list."""
    return json.dumps(_plain(value), separators=(",", ":")).encode()


def values_from_json(data: bytes, kinds: Mapping[str, type]) -> Any:
    """The value again.

    Args:
        kinds: the dataclasses it may hold, by name.

    Raises:
        ValueError: when the bytes are no such JSON. KeyError: when they name another kind.
    """
    return _value(json.loads(data), kinds)


def _plain(value: Any) -> Any:
    if is_dataclass(value):
        return {type(value).__name__: [_plain(getattr(value, field.name)) for field in fields(value)]}
    if isinstance(value, Iterable) and not isinstance(value, str):
        return [_plain(each) for each in value]
    return value


def _value(plain: Any, kinds: Mapping[str, type]) -> Any:
    if isinstance(plain, dict):
        ((name, given),) = plain.items()
        return kinds[name](*(_value(each, kinds) for each in given))
    if isinstance(plain, list):
        return tuple(_value(each, kinds) for each in plain)
    return plain
