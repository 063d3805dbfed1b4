"""What a saved crossing holds, as JSON Schema (draft 7): one file for each version beside this module.

The files are the authority: a crossing is held against that of its version before anything is made of it.
They are written from the dataclasses once, when a version is made; a test holds the dataclasses of today
against the newest, so that no change of theirs changes what is stored without a version of its own.
"""

from __future__ import annotations

import json
import types
import typing
from collections.abc import Callable
from dataclasses import MISSING, fields, is_dataclass
from enum import Enum
from functools import cache
from importlib.resources import files
from typing import Any

import fastjsonschema

from gondrel.core.errors import MalformedFile
from gondrel.core.model.metadata import Metadatum

__all__ = ["VERSION", "check_shape", "schema_of", "stored_schema"]

VERSION = 6
"""The version that is written."""

Plain = dict[str, Any]
_SIMPLE = {str: "string", int: "integer", float: "number", bool: "boolean", type(None): "null"}


def stored_schema(version: int) -> Plain:
    """The schema of a version. Raises FileNotFoundError when there is none."""
    schema: Plain = json.loads(files(__package__).joinpath(f"crossing-{version}.json").read_text("utf-8"))
    return schema


@cache
def _checker(version: int) -> Callable[[Any], Any]:
    made: Callable[[Any], Any] = fastjsonschema.compile(stored_schema(version), use_default=False)
    return made


def check_shape(plain: Any, version: int) -> None:
    """Hold the content of a crossing against the schema of its version.

    Raises:
        MalformedFile: when it has another shape, carrying where.
    """
    try:
        _checker(version)(plain)
    except fastjsonschema.JsonSchemaValueException as error:
        where = ".".join(str(step) for step in error.path[1:]) or "crossing"
        reason = error.message.removeprefix(error.name).strip()
        raise MalformedFile(
            f"not a whole crossing file: its content has another shape than expected ({reason})",
            where=where,
        ) from None


def schema_of(kind: type) -> Plain:
    """The schema of what is stored of a dataclass today."""
    definitions: Plain = {}
    reference = _described(kind, definitions)
    return {**reference, "definitions": dict(sorted(definitions.items()))}


def _described(kind: Any, definitions: Plain) -> Plain:
    if kind in _SIMPLE:
        return {"type": _SIMPLE[kind]}
    if is_dataclass(kind):
        name = kind.__name__  # type: ignore[union-attr]
        if name not in definitions:
            definitions[name] = {}  # so that what refers to itself finds it
            definitions[name] = _object(kind, definitions)
        return {"$ref": f"#/definitions/{name}"}
    if isinstance(kind, type) and issubclass(kind, Enum):
        return {"enum": [each.value for each in kind]}
    origin, arguments = typing.get_origin(kind), typing.get_args(kind)
    if origin in (typing.Union, types.UnionType):
        return _either([_described(each, definitions) for each in arguments])
    if origin is tuple and arguments[-1:] != (Ellipsis,):
        items = [_described(each, definitions) for each in arguments]
        return {"type": "array", "items": items, "minItems": len(items), "maxItems": len(items)}
    if origin in (tuple, frozenset, set, list):
        return {"type": "array", "items": _described(arguments[0], definitions)}
    if origin is dict or kind is dict:
        return {"type": "object"}
    raise TypeError(f"{kind} is no kind that can be stored")


def _either(choices: list[Plain]) -> Plain:
    plain = [choice["type"] for choice in choices if set(choice) == {"type"}]
    if len(plain) == len(choices):
        return {"type": plain}
    return {"anyOf": choices}


def _object(kind: Any, definitions: Plain) -> Plain:
    if kind is Metadatum:  # it names the type of its value, which JSON does not keep
        properties: Plain = {
            "key": {"type": "string"}, "kind": {"enum": ["text", "integer", "real", "boolean"]},
            "value": {"type": ["string", "integer", "number", "boolean"]},
            "measure": {"type": "string"}, "unit": {"type": "string"},
        }  # fmt: skip
        required = ["key", "kind", "value"]
    else:
        hints = typing.get_type_hints(kind)
        properties = {field.name: _described(hints[field.name], definitions) for field in fields(kind)}
        required = [f.name for f in fields(kind) if f.default is MISSING and f.default_factory is MISSING]
    return {
        "type": "object", "properties": properties, "required": required, "additionalProperties": False,
    }  # fmt: skip
