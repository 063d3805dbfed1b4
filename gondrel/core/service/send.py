"""Send: forecast, write to one side, read back, prove, then put in place."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterable, Mapping
from pathlib import Path

from gondrel.core.arrange.placed import PlacedModel, place_bodies
from gondrel.core.carriage.forecast import Forecast, make_forecast
from gondrel.core.carriage.inventory import Key
from gondrel.core.carriage.placed import fold_proof, foresee_placed
from gondrel.core.errors import UsageError, WriteFailed
from gondrel.core.formats.base import Target
from gondrel.core.formats.registry import all_formats, target
from gondrel.core.formats.settings import SendSettings
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.units import BY_KEY
from gondrel.core.service.messages import Sent, TargetChoice
from gondrel.core.service.prove import prove_against
from gondrel.core.service.receive import measure_all
from gondrel.core.service.write import write_model
from gondrel.core.work import SILENT, Progress

__all__ = [
    "forecast_for",
    "forecast_values",
    "send",
    "send_values",
    "settings_from",
    "target_kinds",
]


_FORMS = ("structure", "placed")


def target_kinds(*, progress: Progress = SILENT) -> tuple[TargetChoice, ...]:
    """Everything that can be sent as."""
    targets = (t for f in all_formats() for t in f.targets)
    return tuple(TargetChoice(t.kind, t.title, t.suffix, t.unit, t.note, t.forms) for t in targets)


def forecast_values(
    model: Model, kind: str, values: Mapping[str, str], store_folder: str, *, progress: Progress = SILENT
) -> Forecast:
    """The forecast for settings given as KEY=VALUE. Raises UsageError, KernelRefused."""
    return forecast_for(model, kind, settings_from(values), store_folder, progress=progress)


def send_values(
    model: Model,
    out: str,
    kind: str,
    values: Mapping[str, str],
    store_folder: str,
    *,
    progress: Progress = SILENT,
) -> Sent:
    """Send with settings given as KEY=VALUE. Raises as send and settings_from do."""
    return send(model, out, kind, settings_from(values), store_folder, progress=progress)


def settings_from(values: Mapping[str, str]) -> SendSettings:
    """Send settings from KEY=VALUE pairs: unit, author, organisation, system, form.

    Raises:
        UsageError: for an unknown key or unit.
    """
    known = {"unit", "author", "organisation", "system", "form"}
    for key in values:
        if key not in known:
            raise UsageError(f"unknown setting {key!r}", hint=f"one of {', '.join(sorted(known))}")
    unit = values.get("unit", "mm")
    if unit not in SendSettings.unit_keys():
        raise UsageError(f"unknown unit {unit!r}", hint=f"one of {', '.join(SendSettings.unit_keys())}")
    if values.get("form", _FORMS[0]) not in _FORMS:
        raise UsageError(f"unknown form {values['form']!r}", hint=f"one of {', '.join(_FORMS)}")
    form = values.get("form", _FORMS[0])
    said = SendSettings()
    return SendSettings(
        unit=BY_KEY[unit],
        author=values.get("author", ""),
        organisation=values.get("organisation", ""),
        system=values.get("system", said.system),
        form=form,
    )


def forecast_for(
    model: Model, kind: str, settings: SendSettings, store_folder: str, *, progress: Progress = SILENT
) -> Forecast:
    """What the target will lose or alter of this model.

    Raises:
        UsageError: for an unknown kind. KernelRefused: when a body can't be looked at.
    """
    store = BlobStore(Path(store_folder))
    placed = _placed(model, kind, settings, store, progress.part(0.0, 0.5))
    return _forecast(model, placed, kind, settings, store, progress.part(0.5, 1.0))


def _forecast(
    model: Model,
    placed: PlacedModel | None,
    kind: str,
    settings: SendSettings,
    store: BlobStore,
    progress: Progress,
) -> Forecast:
    form, chosen = target(kind)
    special: Iterable[tuple[Key, tuple[str, str]]] = ()
    if form.foresee:
        written = placed.model if placed else model
        special = form.function("foresee")(written, store, chosen, settings, progress=progress)
    title = chosen.title
    if placed is not None:
        special = foresee_placed(model, placed.origin, special)
        title += ", placed bodies"
    unit = chosen.unit or settings.unit.key
    return make_forecast(model, chosen.carries, title=title, unit=unit, special=special)


def _placed(
    model: Model, kind: str, settings: SendSettings, store: BlobStore, progress: Progress
) -> PlacedModel | None:
    """The placed bodies where they are asked for. Raises UsageError where the target has no choice."""
    _check_form(target(kind)[1], settings)
    return place_bodies(model, store, progress=progress) if settings.form == "placed" else None


def _check_form(chosen: Target, settings: SendSettings) -> None:
    if settings.form != _FORMS[0] and settings.form not in chosen.forms:
        raise UsageError(f"{chosen.title} has no choice of forms", hint="leave form out")


def send(
    model: Model,
    out: str,
    kind: str,
    settings: SendSettings,
    store_folder: str,
    *,
    progress: Progress = SILENT,
) -> Sent:
    """Write a model, read the file back raw and prove it, then put it in place.

    Raises:
        UsageError: for an unknown kind. OutputError: when it can't be written.
        KernelRefused: when the kernel fails over a body.
    """
    store = BlobStore(Path(store_folder))
    placed = _placed(model, kind, settings, store, progress.part(0.0, 0.05))
    written = placed.model if placed else model
    facts = measure_all(written.blobs(), store_folder, progress=progress.part(0.05, 0.1))
    forecast = _forecast(model, placed, kind, settings, store, progress.part(0.1, 0.15))
    data = write_model(
        written, kind, settings, store, facts, name=Path(out).name, progress=progress.part(0.15, 0.4)
    )
    temporary = _beside(Path(out), data)
    try:
        progress.at(0.4, "Reading the file back")
        returned, proof, returned_facts = prove_against(
            written,
            facts,
            str(temporary),
            store_folder,
            None if placed else forecast,
            progress.part(0.4, 1.0),
        )
        if placed is not None:
            proof = fold_proof(model, proof, placed.origin, forecast)
        os.replace(temporary, out)
    except OSError as error:
        raise WriteFailed(f"can't be put in place: {error.strerror}", file=out) from error
    finally:
        temporary.unlink(missing_ok=True)
    return Sent(out, len(data), kind, forecast, proof, returned, returned_facts)


def _beside(out: Path, data: bytes) -> Path:
    """The data in a temporary file in the same folder. Raises WriteFailed."""
    try:
        handle, name = tempfile.mkstemp(dir=out.parent, prefix=".", suffix=out.suffix or ".tmp")
        with os.fdopen(handle, "wb") as stream:
            stream.write(data)
        os.chmod(name, 0o644)
    except OSError as error:
        raise WriteFailed(f"can't be written: {error.strerror}", file=str(out)) from error
    return Path(name)
