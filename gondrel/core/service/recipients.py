"""Recipients: what they will keep of a file, formats ranked for them, rehearsals with stand-ins."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import partial
from pathlib import Path

from gondrel.core.arrange.leaving import going
from gondrel.core.carriage.forecast import Forecast
from gondrel.core.errors import GondrelError
from gondrel.core.formats.registry import all_formats, target
from gondrel.core.formats.settings import SendSettings
from gondrel.core.kernel.derive import complexity_of
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.verdicts import Fate
from gondrel.core.recipients.card import Card
from gondrel.core.recipients.expecting import as_received_by, harm_of
from gondrel.core.recipients.rehearsal import rehearse
from gondrel.core.recipients.results import Choice, Rehearsal
from gondrel.core.recipients.stand_ins.known import stand_in
from gondrel.core.service.messages import Sent
from gondrel.core.service.prove import deviations_of, prove_against
from gondrel.core.service.receive import measure_all
from gondrel.core.service.send import forecast_for, send
from gondrel.core.service.write import write_model
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import private_folder

__all__ = [
    "expect",
    "forecast_toward",
    "prove_returned",
    "rank_targets",
    "rehearse_file",
    "same_system",
]

_MOST_WRITTEN = 8_000_000
"""Bytes of bodies up to which a size is measured by writing."""


def expect(
    model: Model, card: Card, kind: str, settings: SendSettings, store_folder: str, forecast: Forecast, *,
    facts: Mapping[str, BodyFacts] | None = None,
) -> Forecast:  # fmt: skip
    """The forecast of a file with what its recipient makes of it. Raises KernelRefused, UsageError."""
    model, _ = going(model)
    measured = facts if facts is not None else measure_all(model.blobs(), store_folder)
    complexity = partial(complexity_of, BlobStore(Path(store_folder)))
    return as_received_by(card, model, measured, kind, settings, forecast, complexity)


def forecast_toward(
    model: Model, kind: str, settings: SendSettings, store_folder: str, card: Card | None, *,
    progress: Progress = SILENT,
) -> Forecast:  # fmt: skip
    """The forecast for a target, and where there is a card of what its recipient makes of the file.

    Raises:
        UsageError, KernelRefused: as forecast_for does.
    """
    forecast = forecast_for(model, kind, settings, store_folder, progress=progress)
    return forecast if card is None else expect(model, card, kind, settings, store_folder, forecast)


def rank_targets(
    model: Model, card: Card | None, settings: SendSettings, store_folder: str, *,
    progress: Progress = SILENT,
) -> tuple[Choice, ...]:  # fmt: skip
    """Every target of exact bodies as a way to a recipient, the best first.

    Without a card they are told by what the files themselves keep.

    Raises:
        KernelRefused: when a body can't be looked at.
    """
    facts = measure_all(model.blobs(), store_folder, progress=progress.part(0.0, 0.2))
    store = BlobStore(Path(store_folder))
    is_small = sum(store.size_of(blob) for blob in model.blobs()) <= _MOST_WRITTEN
    kinds = [t.kind for form in sorted(all_formats(), key=lambda f: f.order) if not form.is_mesh
             for t in form.targets]  # fmt: skip
    choices = []
    for kind in progress.part(0.2, 1.0).each(kinds, "Trying formats out"):
        choices.append(_choice(model, card, kind, settings, store_folder, facts, is_small))
    liked = {kind: place for place, kind in enumerate(card.reads.kinds)} if card is not None else {}
    return tuple(sorted(choices, key=lambda c: (*_badness(c, card), liked.get(c.kind, 99))))


def _choice(
    model: Model, card: Card | None, kind: str, settings: SendSettings, store_folder: str,
    facts: Mapping[str, BodyFacts], is_small: bool,
) -> Choice:  # fmt: skip
    title = target(kind)[1].title
    is_read = card is None or not card.reads.kinds or kind in card.reads.kinds
    try:
        forecast = forecast_for(model, kind, settings, store_folder)
        size = None
        if is_small:
            going_model, _ = going(model)
            store = BlobStore(Path(store_folder))
            size = len(write_model(going_model, kind, settings, store, facts, name="trial"))
    except GondrelError as error:
        return Choice(kind, title, is_read, 0, 0, 0, why_not=error.message)
    if card is not None:
        forecast = expect(model, card, kind, settings, store_folder, forecast, facts=facts)
    fates = [entry.fate for entry in forecast.entries]
    harm = harm_of(card, forecast) if card is not None else harm_of(Card("none", "nobody"), forecast)
    counts = fates.count(Fate.CARRIED), fates.count(Fate.ALTERED), fates.count(Fate.LOST)
    reasons = tuple(_reasons(card, kind, forecast, is_read))
    if card is not None and size is not None and 0 < card.limits.megabytes * 1e6 < size:
        why = f"it has {size / 1e6:,.1f} MB, they take {card.limits.megabytes:g}"
        return Choice(kind, title, is_read, 0, 0, 0, why_not=why)
    return Choice(kind, title, is_read, *counts, tuple(harm.items()), size, reasons=reasons)


def _badness(choice: Choice, card: Card | None) -> tuple[int, int, int, int, int]:
    harm = dict(choice.harm)
    lost = sum(fate is Fate.LOST for fate in harm.values())
    return (
        int(bool(choice.why_not)), int(not choice.is_read), lost, len(harm),
        choice.lost + choice.altered,
    )  # fmt: skip


def _reasons(card: Card | None, kind: str, forecast: Forecast, is_read: bool) -> Iterable[str]:
    if card is not None and not is_read:
        yield f"{card.name} can't read it (their card)"
    elif card is not None and card.reads.kinds and kind == card.reads.kinds[0]:
        yield f"{card.name} like it best (their card)"
    if card is not None and card.kernel == "parasolid" and kind.startswith("xt-"):
        yield "their system is of the Parasolid family, whose own format XT is (common practice)"
    for thing in dict.fromkeys(entry.item.thing for entry in forecast.entries):
        fate = forecast.fate(thing)
        if fate in (Fate.LOST, Fate.ALTERED):
            quiet = card is not None and thing in card.indifferent
            why = next(e.why for e in forecast.of(thing) if e.fate is fate)
            note = ", which does not matter to them" if quiet else ""
            yield f"{thing} {fate}{note}: {why}"


def same_system(model: Model, card: Card | None) -> str:
    """What to say first where both sides work with the same system or kernel; empty where they do not."""
    if card is None or model.provenance is None:
        return ""
    writer = model.provenance.file.written_by.system.strip()
    if writer and card.system and writer.casefold() in card.system.casefold():
        return f"{card.name} work with {writer} too: its own files may carry more than any exchange file"
    if card.kernel == "parasolid" and model.provenance.file.format == "parasolid":
        return f"{card.name} have the same modelling kernel: XT carries the shape as it is"
    return ""


def prove_returned(
    model: Model, path: str, kind: str, settings: SendSettings, store_folder: str, card: Card | None, *,
    progress: Progress = SILENT,
) -> Sent:  # fmt: skip
    """A file that a recipient made of what was sent, against the model that was meant.

    Args:
        kind: what it was sent as; card: of the recipient, None for nobody in particular.

    Raises:
        InputError: when it can't be read. KernelRefused: when the kernel fails over a body.
    """
    model, _ = going(model)
    facts = measure_all(model.blobs(), store_folder, progress=progress.part(0.0, 0.1))
    forecast = forecast_toward(model, kind, settings, store_folder, card, progress=progress.part(0.1, 0.2))
    returned, proof, back = prove_against(
        model, facts, [path], store_folder, forecast, progress.part(0.2, 1.0), other_reader=False
    )
    return Sent(path, Path(path).stat().st_size, kind, forecast, proof, returned, back)


def rehearse_file(
    model: Model, key: str, card: Card | None, kind: str, settings: SendSettings, store_folder: str, *,
    progress: Progress = SILENT,
) -> Rehearsal:  # fmt: skip
    """Send a model to a stand-in: written, taken as its system would, judged against what was meant.

    Args:
        key: of the stand-in; card: what it is held to, None for the file's own forecast.

    Raises:
        UsageError: for an unknown stand-in or kind. OutputError: when it can't be written.
        KernelRefused: when the kernel fails over a body.
    """
    mate = stand_in(key)
    model, _ = going(model)
    facts = measure_all(model.blobs(), store_folder, progress=progress.part(0.0, 0.1))
    store = BlobStore(Path(store_folder))
    with private_folder() as folder:
        path = str(Path(folder) / f"rehearsal{target(kind)[1].suffix}")
        sent = send(model, path, kind, settings, store_folder, progress=progress.part(0.1, 0.6))
        forecast = sent.forecast
        if card is not None:
            forecast = expect(model, card, kind, settings, store_folder, forecast, facts=facts)
        part = progress.part(0.6, 1.0)
        measure = deviations_of(store, part)
        return rehearse(mate, path, model, facts, store, measure, forecast, progress=part)
