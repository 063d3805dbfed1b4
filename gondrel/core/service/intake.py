"""Receive settings from text, and receiving into a prepared product."""

from __future__ import annotations

import os
from collections.abc import Mapping

from gondrel.core.arrange.insertion import with_model_inside
from gondrel.core.errors import UsageError
from gondrel.core.model.receiving import KINDS, ReceiveSettings
from gondrel.core.model.snapshot import Model
from gondrel.core.model.units import BY_KEY
from gondrel.core.service.receive import receive
from gondrel.core.service.values import check_keys, choice_of, flag_of, number_of, words_of
from gondrel.core.work import SILENT, Progress

__all__ = ["KEYS", "receive_by", "receive_settings_from"]

KEYS = (
    "kinds", "colours", "layers", "structure", "loose", "unit", "scale", "names", "join", "facets",
    "search", "into",
)  # fmt: skip
"""Keys of receive settings."""


def receive_settings_from(values: Mapping[str, str]) -> ReceiveSettings:
    """Receive settings from KEY=VALUE pairs.

    Raises:
        UsageError: for an unknown key or a value that is none.
    """
    check_keys(values, KEYS)
    kinds = words_of(values, "kinds")
    for kind in kinds or ():
        if kind not in KINDS:
            raise UsageError(f"unknown kind {kind!r}", hint=f"any of {', '.join(KINDS)}")
    layers = words_of(values, "layers")
    unit = values.get("unit", "")
    if unit and unit not in BY_KEY:
        raise UsageError(f"unknown unit {unit!r}", hint=f"one of {', '.join(BY_KEY)}")
    join: float | None = None
    if values.get("join", "auto") == "off":
        join = 0.0
    elif values.get("join", "auto") not in ("", "auto"):
        join = number_of(values, "join", 0.0, least=0.0)
    return ReceiveSettings(
        kinds=frozenset(KINDS if kinds is None else kinds),
        colours=flag_of(values, "colours", True),
        layers=None if layers is None else frozenset(layers),
        structure=choice_of(values, "structure", ("kept", "flat")),
        loose=choice_of(values, "loose", ("one", "each")),
        unit=unit,
        scale=number_of(values, "scale", 1.0, least=1e-9),
        names=choice_of(values, "names", ("product", "number", "file")),
        join=join,
        search=tuple(f for f in values.get("search", "").split(os.pathsep) if f),
        facets=choice_of(values, "facets", ("mesh", "solid", "shaped")),
    )


def receive_by(
    path: str, store_folder: str, values: Mapping[str, str], *, progress: Progress = SILENT
) -> Model:
    """Read a file by settings given as text; into=FILE#NUMBER puts it into a prepared product.

    Raises:
        UsageError: for settings that make no sense. InputError: when a file can't be read.
    """
    settings = receive_settings_from(values)
    into = values.get("into", "")
    model = receive(path, store_folder, settings, progress=progress.part(0.0, 0.7 if into else 1.0))
    if not into:
        return model
    house, mark, number = into.rpartition("#")
    if not mark or not house:
        raise UsageError(f"into must be FILE#NUMBER (got {into!r})")
    prepared = receive(house, store_folder, progress=progress.part(0.7, 1.0))
    chosen = [p.id for p in prepared.products if number in (p.number, p.name)]
    if not chosen:
        raise UsageError(f"{house} has no product {number!r}", hint="give its number or its name")
    return with_model_inside(prepared, chosen[0], model)
