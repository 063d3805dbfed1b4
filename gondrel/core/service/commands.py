"""Whole commands in one worker job each: plain values in, contract JSON objects out."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from gondrel.core.errors import InputError
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.findings import MendWish
from gondrel.core.model.notes import GRAVE, with_measured_notes
from gondrel.core.reports.contract import (
    census_object,
    check_object,
    counts_object,
    forecast_list,
    inspect_object,
    mended_object,
    proof_object,
)
from gondrel.core.service.check import check, limits_from
from gondrel.core.service.intake import receive_by
from gondrel.core.service.mend import mend, named_faces, wish_for
from gondrel.core.service.prove import prove_files
from gondrel.core.service.receive import measure_all
from gondrel.core.service.recipes import recipe_named, recipes
from gondrel.core.service.send import forecast_for, kind_of_suffix, send, settings_from
from gondrel.core.service.values import flag_of, number_of, whole_of
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import check_places

_CHECK = "check."
_RECEIVE = "receive."
"""How the keys of check and receive settings begin where they stand among others."""

__all__ = ["check_command", "inspect_command", "mend_command", "prove_command", "send_command"]


def inspect_command(
    path: str, settings: Mapping[str, str], recipe: str, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel inspect``. Raises InputError, KernelError, UsageError."""
    values = {**_recipe(recipe, "receive"), **settings}
    model = receive_by(path, store, values, progress=progress.part(0.0, 0.8))
    facts = measure_all(model.blobs(), store, progress=progress.part(0.8, 1.0))
    return inspect_object(with_measured_notes(model, facts), facts)


def send_command(
    path: str,
    out: str,
    kind: str,
    settings: Mapping[str, str],
    recipe_names: Sequence[str],
    forecast_only: bool,
    store: str,
    *,
    progress: Progress = SILENT,
) -> dict[str, Any]:
    """The object of ``gondrel send``. Raises InputError, OutputError, UsageError, KernelError."""
    values = _with_recipes(settings, recipe_names)
    received = {k.removeprefix(_RECEIVE): v for k, v in values.items() if k.startswith(_RECEIVE)}
    chosen = settings_from({k: v for k, v in values.items() if not k.startswith(_RECEIVE)})
    if not forecast_only:
        _check_out(path, out, chosen)
    model = receive_by(path, store, received, progress=progress.part(0.0, 0.3))
    forecast = forecast_for(model, kind, chosen, store)
    if forecast_only:
        told = {"forecast": forecast_list(forecast), "remarks": list(forecast.remarks)}
        return {**told, **census_object(model)}
    sent = send(model, out, kind, chosen, store, progress=progress.part(0.3, 1.0))
    return {
        "sent": [{"path": p, "bytes": n} for p, n in ((sent.path, sent.bytes), *sent.beside)],
        "forecast": forecast_list(sent.forecast),
        "remarks": list(sent.forecast.remarks),
        "proof": proof_object(sent.proof),
        "remaining_faults": [
            {"code": n.code, "text": n.text, "where": n.where} for n in model.notes if n.code in GRAVE
        ],
        **census_object(model),
    }


def _check_out(path: str, out: str, settings: SendSettings) -> None:
    """See that a file can be put where it is wanted, before anything is read.

    Raises:
        InputError: when it is the file received. OutputError: when the place is taken or no place.
    """
    if os.path.realpath(out) == os.path.realpath(path):
        raise InputError("the file to send must not be the file received", file=out)
    if settings.files == "one":
        check_places([Path(out)], force=settings.force)


def _recipe(name: str, purpose: str) -> dict[str, str]:
    return dict(recipe_named(name, purpose).values) if name else {}


def _with_recipes(settings: Mapping[str, str], names: Sequence[str]) -> dict[str, str]:
    """Settings of recipes, of either purpose, and on top of them those given."""
    values: dict[str, str] = {}
    for name in names:
        saved = {r.purpose: r for r in recipes() if r.name == name}
        if not saved:
            recipe_named(name, "send")  # says which there are
        for purpose, recipe in saved.items():
            mark = _RECEIVE if purpose == "receive" else ""
            values.update({mark + key: value for key, value in recipe.values})
    return {**values, **settings}


def check_command(
    path: str, settings: Mapping[str, str], recipe: str, store: str, *, progress: Progress = SILENT
) -> dict[str, Any]:
    """The object of ``gondrel check``. Raises InputError, KernelError, UsageError."""
    received = {k.removeprefix(_RECEIVE): v for k, v in settings.items() if k.startswith(_RECEIVE)}
    limits = {k: v for k, v in settings.items() if not k.startswith(_RECEIVE)}
    limits_from(limits)
    values = {**_recipe(recipe, "receive"), **received}
    model = receive_by(path, store, values, progress=progress.part(0.0, 0.5))
    return check_object(model, check(model, limits, store, progress=progress.part(0.5, 1.0)))


def mend_command(
    path: str,
    out: str,
    only: Sequence[str],
    safe: bool,
    settings: Mapping[str, str],
    store: str,
    *,
    progress: Progress = SILENT,
) -> dict[str, Any]:
    """The object of ``gondrel mend``. Raises InputError, OutputError, UsageError, KernelError."""
    received = {k.removeprefix(_RECEIVE): v for k, v in settings.items() if k.startswith(_RECEIVE)}
    values = {k: v for k, v in settings.items() if not k.startswith(_RECEIVE)}
    limits = {k.removeprefix(_CHECK): v for k, v in values.items() if k.startswith(_CHECK)}
    tolerance = number_of(values, "within", 1e-3, least=1e-7)
    smooth = flag_of(values, "smooth", False)
    own = ("within", "smooth", "faces", "finding")
    chosen = settings_from({k: v for k, v in values.items() if k not in own and not k.startswith(_CHECK)})
    kind = kind_of_suffix(out)
    _check_out(path, out, chosen)
    model = receive_by(path, store, received, progress=progress.part(0.0, 0.2))
    faces = named_faces(model, values["faces"]) if "faces" in values else ()
    before = check(model, limits, store, progress=progress.part(0.2, 0.4))
    wish = MendWish(tuple(only) or (("R114",) if faces else ()), safe, tolerance, (), smooth, faces)
    if "finding" in values:
        wish = wish_for(before, whole_of(values, "finding"), wish)
    mended, told = mend(model, wish, limits, store, progress=progress.part(0.4, 0.7))
    after = check(mended, limits, store, progress=progress.part(0.7, 0.8))
    sent = send(mended, out, kind, chosen, store, progress=progress.part(0.8, 1.0))
    return {
        "mends": [mended_object(each) for each in told],
        "check_before": counts_object(before),
        "check_after": counts_object(after),
        "sent": [{"path": p, "bytes": n} for p, n in ((sent.path, sent.bytes), *sent.beside)],
        "proof": proof_object(sent.proof),
    }


def prove_command(meant: str, returned: str, store: str, *, progress: Progress = SILENT) -> dict[str, Any]:
    """The object of ``gondrel prove``. Raises InputError, KernelError."""
    proof, model, back = prove_files(meant, returned, store, progress=progress)
    return {**proof_object(proof), **census_object(model), "returned": census_object(back)}
