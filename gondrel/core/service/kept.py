"""What users keep between starts, as dataclasses in JSON files of the configuration folder."""

from __future__ import annotations

import json
from dataclasses import fields
from pathlib import Path
from typing import Any, TypeVar, cast, get_type_hints

import cattrs

from gondrel.core.errors import MalformedFile
from gondrel.core.model.store import write_whole

__all__ = ["keep", "kept", "kept_fields"]

T = TypeVar("T")


def _strict(value: Any, kind: type) -> Any:
    """A number or text as it is; nothing is turned into another kind."""
    if type(value) is not kind:
        raise ValueError(f"{value!r} is no {kind.__name__}")
    return value


_CONVERTER = cattrs.Converter(detailed_validation=False)
for _kind in (str, int, float, bool):
    _CONVERTER.register_structure_hook(_kind, _strict)


def kept(path: Path, kind: type[T]) -> T | None:
    """What a file keeps, None where there is none.

    Raises:
        MalformedFile: when it can't be read or has another shape.
    """
    if not path.exists():
        return None
    try:
        plain = json.loads(path.read_text("utf-8"))
        if not isinstance(plain, dict):
            raise ValueError(f"{plain!r:.40} is no object")
        return _CONVERTER.structure(plain, kind)
    except Exception as error:  # cattrs raises whatever the shape makes it stumble over
        raise MalformedFile(f"the file of {path.stem} makes no sense: {error}", file=str(path)) from error


def kept_fields(path: Path, default: T) -> T:
    """What a file keeps, field by field; what is broken, unknown or not there is as in the default."""
    try:
        plain = json.loads(path.read_text("utf-8"))
    except (OSError, ValueError):
        return default
    values = {f.name: getattr(default, f.name) for f in fields(cast(Any, default))}
    for name, kind in get_type_hints(type(default)).items():
        if isinstance(plain, dict) and name in plain:
            try:
                values[name] = _CONVERTER.structure(plain[name], kind)
            except Exception:  # as in kept
                continue
    return type(default)(**values)


def keep(path: Path, value: Any) -> None:
    """Write a dataclass, whole or not at all. Raises OSError, WriteFailed."""
    path.parent.mkdir(parents=True, exist_ok=True)
    write_whole(path, json.dumps(_CONVERTER.unstructure(value), indent=1).encode())
