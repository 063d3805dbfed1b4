"""Send: forecast, write to one side, read back, prove, then put in place."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from pathlib import Path

from gondrel.core.arrange.leaving import going
from gondrel.core.arrange.placed import PlacedModel, place_bodies
from gondrel.core.arrange.solids import Solidification, solids_of_meshes
from gondrel.core.carriage.forecast import Forecast, make_forecast
from gondrel.core.carriage.other import OTHERWISE, OtherLine
from gondrel.core.carriage.placed import fold_proof, foresee_placed
from gondrel.core.errors import CannotExpress, UsageError, WriteFailed
from gondrel.core.formats.base import Target
from gondrel.core.formats.registry import target
from gondrel.core.formats.settings import Aid, SendSettings
from gondrel.core.kernel.derive import facts_of
from gondrel.core.model.body import BodyFacts
from gondrel.core.model.carries import Fated
from gondrel.core.model.figures import astray, contradicted
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.model.verdicts import Fate
from gondrel.core.service.messages import Sent
from gondrel.core.service.other import OtherReader
from gondrel.core.service.prove import prove_against
from gondrel.core.service.receive import measure_all
from gondrel.core.service.send_mesh import forecast_meshes, send_meshes
from gondrel.core.service.write import write_model
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import check_places, deliver, private_folder

__all__ = [
    "forecast_for",
    "send",
]


def forecast_for(
    model: Model, kind: str, settings: SendSettings, store_folder: str, *, progress: Progress = SILENT
) -> Forecast:
    """What the target will lose or alter of this model.

    Raises:
        UsageError: for an unknown kind. KernelRefused: when a body can't be looked at.
    """
    model, staying = going(model)
    forecast = _forecast_for(model, kind, settings, BlobStore(Path(store_folder)), progress)
    return replace(forecast, remarks=(*staying, *forecast.remarks))


def _forecast_for(
    model: Model, kind: str, settings: SendSettings, store: BlobStore, progress: Progress
) -> Forecast:
    form, chosen = target(kind)
    if form.is_mesh:
        _check_form(chosen, settings)
        return forecast_meshes(model, form, chosen, settings, store, progress)
    placed = _placed(model, kind, settings, store, progress.part(0.0, 0.3))
    written = placed.model if placed else model
    solid = solids_of_meshes(written, store, shaped=settings.cylinders, progress=progress.part(0.3, 0.5))
    return _forecast(model, placed, solid, kind, settings, store, progress.part(0.5, 1.0))


def _forecast(
    model: Model,
    placed: PlacedModel | None,
    solid: Solidification,
    kind: str,
    settings: SendSettings,
    store: BlobStore,
    progress: Progress,
) -> Forecast:
    form, chosen = target(kind)
    special: Iterable[Fated] = ()
    if form.foresees is not None:
        sound = _without(solid.model, solid.refused)
        special = form.foresees(sound, store, chosen, settings, progress=progress)
    special = [*special, *_mesh_fates(solid), *_contradicted(solid.model, store)]
    title = chosen.title
    if placed is not None:
        special = foresee_placed(model, placed.origin, special)
        title += ", placed bodies"
    unit = chosen.unit or settings.unit.key
    return make_forecast(model, chosen.carries, title=title, unit=unit, special=special)


def _contradicted(model: Model, store: BlobStore) -> Iterator[Fated]:
    """Check figures of the sender that contradict the shape: the measured ones are written."""
    if all(product.validation is None for product in model.products) and all(
        use.centroid is None for _, use in model.occurrences()
    ):
        return
    facts = {key: facts_of(store, key) for key in model.blobs()}
    for identity, texts in contradicted(model, facts).items():
        why = f"the sender's figures contradict the shape; measured ones are written: {'; '.join(texts)}"
        yield ("validation", identity, "figures"), (Fate.ALTERED, why)
    for identity, text in astray(model, facts).items():
        yield ("validation", identity, "centroid"), (Fate.ALTERED, f"{text}; the measured one is written")


def _mesh_fates(solid: Solidification) -> Iterator[Fated]:
    """What becomes of meshes that go as solids."""
    for body, text in solid.made_solid.items():
        yield ("bodies", body, "body"), (Fate.ALTERED, f"the mesh becomes a solid: {text}")
        yield ("geometry", body, "shape"), (Fate.ALTERED, text)
        yield ("colours", body, "face colours"), (Fate.LOST, "facets with colours are merged into faces")
    for body, why in solid.refused.items():
        yield ("bodies", body, "body"), (Fate.LOST, why)
        yield ("geometry", body, "shape"), (Fate.LOST, why)


def _without(model: Model, refused: Mapping[str, str]) -> Model:
    """The model without bodies that cannot be written."""
    if not refused:
        return model
    kept = (replace(p, bodies=tuple(b for b in p.bodies if b.id not in refused)) for p in model.products)
    return replace(model, products=tuple(kept))


def _placed(
    model: Model, kind: str, settings: SendSettings, store: BlobStore, progress: Progress
) -> PlacedModel | None:
    """The placed bodies where they are asked for. Raises UsageError where the target has no choice."""
    _check_form(target(kind)[1], settings)
    return place_bodies(model, store, progress=progress) if settings.form == "placed" else None


def _check_form(chosen: Target, settings: SendSettings) -> None:
    if settings.form != SendSettings().form and settings.form not in chosen.forms:
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

    What is left out by choice stays here and is remarked on in the forecast.

    Raises:
        UsageError: for an unknown kind. OutputError: when it can't be written.
        KernelRefused: when the kernel fails over a body.
    """
    model, staying = going(model)
    sent = _send(model, out, kind, settings, store_folder, progress)
    remarks = (*staying, *sent.forecast.remarks)
    return replace(sent, forecast=replace(sent.forecast, remarks=remarks))


def _send(
    model: Model, out: str, kind: str, settings: SendSettings, store_folder: str, progress: Progress
) -> Sent:
    store = BlobStore(Path(store_folder))
    form, chosen = target(kind)
    if settings.files == "one" or not form.is_mesh:
        check_places([Path(out)], force=settings.force)
    if form.is_mesh:
        _check_form(chosen, settings)
        return send_meshes(model, out, kind, form, chosen, settings, store_folder, progress)
    placed = _placed(model, kind, settings, store, progress.part(0.0, 0.05))
    written = placed.model if placed else model
    solid = solids_of_meshes(written, store, shaped=settings.cylinders, progress=progress.part(0.05, 0.07))
    _refuse_open_meshes(written, solid.refused, chosen.title)
    blobs = tuple(dict.fromkeys((*written.blobs(), *solid.model.blobs())))
    facts = measure_all(blobs, store_folder, progress=progress.part(0.07, 0.1))
    forecast = _forecast(model, placed, solid, kind, settings, store, progress.part(0.1, 0.15))
    known = None if placed else forecast
    aids = tuple(Aid) if form.key == "step" and settings.aid is Aid.NONE else (settings.aid,)
    with private_folder(Path(os.path.realpath(out)).parent) as scratch:

        def attempt(aid: Aid) -> _Attempt:
            new = _Attempt(
                written,
                solid.model,
                facts,
                known,
                kind,
                Path(out),
                store_folder,
                replace(settings, aid=aid),
                scratch,
            )
            return new

        best = attempt(aids[0])
        best.write(progress.part(0.15, 0.35))
        best.prove(progress.part(0.35, 0.9))
        if best.otherwise:
            best = _better(best, [attempt(aid) for aid in aids[1:]], progress.part(0.9, 1.0))
        proof = best.proof
        if placed is not None:
            proof = fold_proof(model, proof, placed.origin, forecast)
        check_places([Path(out)], force=settings.force)
        deliver({Path(out): best.temporary})
    return Sent(out, best.size, kind, forecast, proof, best.returned, best.facts_back)


def _refuse_open_meshes(model: Model, refused: Mapping[str, str], title: str) -> None:
    """Raise CannotExpress for the first mesh that no solid could be made of."""
    for body, why in refused.items():
        name = next(b.name or p.label for p, b in model.bodies() if b.id == body)
        raise CannotExpress(
            f"{name} can't be sent as {title}: {why}", hint="mend the mesh first, or send it as STL or OBJ"
        )


class _Attempt:
    """A file written beside its place, and its proof.

    Its `otherwise` says how many areas and volumes another reader has otherwise.
    """

    def __init__(
        self,
        written: Model,
        solid: Model,
        facts: Mapping[str, BodyFacts],
        forecast: Forecast | None,
        kind: str,
        out: Path,
        store_folder: str,
        settings: SendSettings,
        scratch: Path,
    ) -> None:
        self.written, self.solid, self.facts, self.forecast = written, solid, facts, forecast
        self.kind, self.out, self.store_folder, self.settings = kind, out, store_folder, settings
        self.temporary = scratch / f"{settings.aid.name}{out.suffix or '.tmp'}"
        self.size = self.otherwise = 0

    def write(self, progress: Progress) -> None:
        """Write the file beside its place. Raises as send does."""
        data = write_model(
            self.solid, self.kind, self.settings, BlobStore(Path(self.store_folder)), self.facts,
            name=self.out.name, progress=progress,
        )  # fmt: skip
        self.size = len(data)
        try:
            self.temporary.write_bytes(data)
        except OSError as error:
            raise WriteFailed(f"can't be written: {error.strerror}", file=str(self.out)) from error

    def prove(self, progress: Progress) -> None:
        """Read the file back and prove it. Raises as send does."""
        progress.at(0.0, "Reading the file back")
        self.returned, self.proof, self.facts_back = prove_against(
            self.written, self.facts, str(self.temporary), self.store_folder, self.forecast,
            progress, other_reader=self.settings.other_reader,
        )  # fmt: skip
        self.otherwise = _otherwise(self.proof.other)

    def see(self, first: _Attempt, progress: Progress) -> None:
        """Have the file read by the other reader alone, against our reading of the first attempt."""
        other = OtherReader(str(self.temporary))
        try:
            self.otherwise = _otherwise(other.lines(first.returned, first.facts_back, progress))
        finally:
            other.close()


def _otherwise(lines: Iterable[OtherLine]) -> int:
    return sum(line.thing == "geometry" and line.verdict == OTHERWISE for line in lines)


def _better(first: _Attempt, others: list[_Attempt], progress: Progress) -> _Attempt:
    """The attempt that another reader sees most alike, proved; in doubt the first."""
    best = first
    for place, other in enumerate(others):
        share = progress.part(place / len(others), (place + 1) / len(others))
        other.write(share)
        other.see(first, share)
        best = min(best, other, key=lambda one: one.otherwise)
        if not best.otherwise:
            break
    if best is not first:
        best.prove(progress)
    return min(first, best, key=lambda one: one.otherwise)
