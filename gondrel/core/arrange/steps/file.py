"""Steps files: an arrangement in TOML that can be read, changed by hand and run again."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

import cattrs
from cattrs.gen import make_dict_structure_fn

from gondrel.core.arrange.steps import bodily, cutting, naming, placing, rebuilding, structural
from gondrel.core.arrange.steps.base import Items, Kind, StepRecord, kind_of_step
from gondrel.core.arrange.steps.scripts import VERSION, script
from gondrel.core.errors import MalformedFile, UsageError
from gondrel.core.model.store import write_whole

__all__ = ["ALL_KINDS", "read_steps", "script_of", "step_from", "steps_from_text", "write_steps"]

ALL_KINDS: dict[str, Kind] = {
    kind.key: kind
    for kind in (
        *structural.KINDS,
        *placing.KINDS,
        *naming.KINDS,
        *cutting.KINDS,
        *bodily.KINDS,
        *rebuilding.KINDS,
    )
}
"""Every kind of step by its key."""


def _number(value: Any, _: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise ValueError(f"{value!r} is no number")
    return float(value)


def _exactly(value: Any, kind: type) -> Any:
    if type(value) is not kind:
        raise ValueError(f"{value!r} is no {kind.__name__}")
    return value


def _converter() -> cattrs.Converter:
    converter = cattrs.Converter(detailed_validation=False, forbid_extra_keys=True)
    converter.register_structure_hook(float, _number)
    for kind in (str, int, bool):
        converter.register_structure_hook(kind, _exactly)
    converter.register_structure_hook(bool | int | float | str | None, lambda value, _: value)
    converter.register_structure_hook(Items, make_dict_structure_fn(Items, converter))
    return converter


_CONVERTER = _converter()


def read_steps(path: str | Path) -> tuple[StepRecord, ...]:
    """The steps of a file.

    Raises:
        MalformedFile: when it is no steps file; with the number of the step that makes no sense.
    """
    try:
        text = Path(path).read_text("utf-8")
    except (OSError, ValueError) as error:
        raise MalformedFile(f"it can't be read as TOML: {error}", file=str(path)) from error
    return steps_from_text(text, str(path))


def steps_from_text(text: str, path: str = "") -> tuple[StepRecord, ...]:
    """The steps of the text of a file. Raises MalformedFile as read_steps does."""
    try:
        plain = tomllib.loads(text)
    except ValueError as error:
        raise MalformedFile(f"it can't be read as TOML: {error}", file=path) from error
    if plain.get("version") != VERSION or not isinstance(plain.get("step"), list):
        raise MalformedFile(f"it is no steps file of version {VERSION}", file=path)
    return tuple(_record(each, number, path) for number, each in enumerate(plain["step"], 1))


def step_from(plain: dict[str, Any]) -> StepRecord:
    """A step from plain values, as they stand in a steps file. Raises MalformedFile."""
    return _record(plain, 1, "")


def script_of(step: StepRecord) -> str:
    """A steps file of one step."""
    return script([_plain(step)])


def _record(plain: Any, number: int, path: str) -> StepRecord:
    try:
        values = dict(plain)
        key = values.pop("do")
        kind = kind_of_step(ALL_KINDS, key)
        items = _CONVERTER.structure(values.pop("items", {}), Items)
        return StepRecord(key, items, _CONVERTER.structure(values, kind.of))  # type: ignore[arg-type]
    except UsageError as error:
        raise MalformedFile(error.message, file=path, where=f"step {number}") from error
    except Exception as error:  # cattrs raises whatever the shape makes it stumble over
        raise MalformedFile(f"it makes no sense: {error}", file=path, where=f"step {number}") from error


def write_steps(path: str | Path, steps: Sequence[StepRecord]) -> None:
    """Keep steps as a file, whole or not at all. Raises WriteFailed."""
    write_whole(Path(path), script([_plain(step) for step in steps]).encode())


def _plain(step: StepRecord) -> dict[str, Any]:
    entry: dict[str, Any] = {"do": step.do}
    items = _bare(asdict(step.items))
    if items:
        entry["items"] = items
    return entry | _bare(asdict(step.values))


def _bare(values: dict[str, Any]) -> dict[str, Any]:
    """Values without those that say nothing, which TOML has no word for."""
    made = {}
    for key, value in values.items():
        if isinstance(value, dict):
            value = _bare(value)
        elif isinstance(value, list | tuple) and value and isinstance(value[0], dict):
            value = [_bare(each) for each in value]
        if value is None or value in ("", {}, ()):
            continue
        made[key] = value
    return made
