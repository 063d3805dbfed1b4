"""Send: forecast, write to one side, read back, prove, then put in place."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from pathlib import Path

from gondrel.core.arrange.leaving import going
from gondrel.core.arrange.placed import place_bodies
from gondrel.core.arrange.sheets import Opened, sheets_of_solids
from gondrel.core.arrange.solids import Solidification, solids_of_meshes
from gondrel.core.carriage.forecast import Forecast, make_forecast
from gondrel.core.carriage.other import OTHERWISE, OtherLine
from gondrel.core.carriage.placed import ALONE, PLACED, fold_proof, foresee_placed
from gondrel.core.errors import CannotExpress, UsageError, WriteFailed
from gondrel.core.formats.base import Target
from gondrel.core.formats.registry import target
from gondrel.core.formats.settings import LINKED, Aid, SendSettings
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
from gondrel.core.service.spread import (
    check_spread,
    fates_of_linked,
    parts_alone,
    writable_parts,
    written_files,
)
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
        _check_meshed(chosen, settings)
        return forecast_meshes(model, form, chosen, settings, store, progress)
    shaped = _shaped(model, kind, settings, store, progress.part(0.0, 0.5))
    return _forecast(shaped, kind, settings, store, progress.part(0.5, 1.0))


@dataclass(frozen=True, slots=True)
class _Shaped:
    """A model and what becomes of it before it is written.

    Args:
        going: the bodies as they go, placed or alone where that is asked for; origin: which item of the
            model each of its own comes from, by id, None where it is the model itself.
        solid: what the files hold: solids of meshes; opened: sheets of solids, where these are asked for.
    """

    model: Model
    going: Model
    origin: Mapping[str, str] | None
    solid: Solidification
    opened: Opened | None

    @property
    def written(self) -> Model:
        """What the files hold."""
        return self.opened.model if self.opened is not None else self.solid.model


def _shaped(
    model: Model, kind: str, settings: SendSettings, store: BlobStore, progress: Progress
) -> _Shaped:
    """What becomes of a model before it is written. Raises UsageError for what the target does not have."""
    check_spread(*target(kind), settings)
    going_model, origin = model, None
    if settings.form == "placed":
        placed = place_bodies(model, store, progress=progress.part(0.0, 0.5))
        going_model, origin = placed.model, dict(placed.origin)
    if settings.files == "each":
        alone = parts_alone(going_model)
        before = origin
        going_model = alone.model
        origin = {i: before[i] if before is not None else i for i in alone.origin}
    solid = solids_of_meshes(
        going_model, store, shaped=settings.cylinders, progress=progress.part(0.5, 0.8)
    )
    opened = None
    if settings.bodies == "surfaces" and not target(kind)[1].surfaces:
        opened = sheets_of_solids(solid.model, store, progress=progress.part(0.8, 1.0))
    return _Shaped(model, going_model, origin, solid, opened)


def _forecast(
    shaped: _Shaped, kind: str, settings: SendSettings, store: BlobStore, progress: Progress
) -> Forecast:
    form, chosen = target(kind)
    model, solid = shaped.model, shaped.solid
    special: Iterable[Fated] = ()
    if form.foresees is not None:
        sound = _without(shaped.written, solid.refused)
        special = form.foresees(sound, store, chosen, settings, progress=progress)
    special = [*special, *_mesh_fates(solid)]
    special += _contradicted(shaped.written, store, opened=shaped.opened is not None)
    title = chosen.title
    if shaped.opened is not None:
        special += shaped.opened.fates()
        title += ", surfaces"
    if settings.files in LINKED:
        special += fates_of_linked(model)
        title += ", one file for each part"
    if shaped.origin is not None:
        is_placed = settings.form == "placed"
        special = list(special)
        going_model = writable_parts(shaped.going, special) if settings.files == "each" else shaped.going
        whys = PLACED if is_placed else ALONE
        special = foresee_placed(model, going_model, shaped.origin, special, whys)
        title += ", placed bodies" if is_placed else ", each part alone"
    unit = chosen.unit or settings.unit.key
    return make_forecast(model, chosen.carries, title=title, unit=unit, special=special)


def _contradicted(model: Model, store: BlobStore, *, opened: bool) -> Iterator[Fated]:
    """Check figures of the sender that contradict the shape: the measured ones are written."""
    if all(product.validation is None for product in model.products) and all(
        use.centroid is None for _, use in model.occurrences()
    ):
        return
    facts = {key: facts_of(store, key) for key in model.blobs()}
    reason = (
        "sheets have other figures than solids" if opened else "the sender's figures contradict the shape"
    )
    for identity, texts in contradicted(model, facts).items():
        why = f"{reason}; measured ones are written: {'; '.join(texts)}"
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


def _check_meshed(chosen: Target, settings: SendSettings) -> None:
    """Raise UsageError where what is asked for has a meaning for exact bodies only."""
    said = SendSettings()
    for key in ("form", "bodies"):
        if getattr(settings, key) != getattr(said, key):
            raise UsageError(f"{chosen.title} has no choice of {key}", hint=f"leave {key} out")
    if settings.files in LINKED:
        raise UsageError(f"{chosen.title} has no files that refer to each other", hint="say files=each")


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
    folder = Path(out).parent
    if settings.files != "each":
        check_places([Path(out)], force=settings.force)
    if form.is_mesh:
        _check_meshed(chosen, settings)
        return send_meshes(model, out, kind, form, chosen, settings, store_folder, progress)
    shaped = _shaped(model, kind, settings, store, progress.part(0.0, 0.07))
    _refuse_open_meshes(shaped.going, shaped.solid.refused, chosen.title)
    blobs = tuple(dict.fromkeys((*shaped.going.blobs(), *shaped.written.blobs())))
    facts = measure_all(blobs, store_folder, progress=progress.part(0.07, 0.1))
    forecast = _forecast(shaped, kind, settings, store, progress.part(0.1, 0.15))
    known = None if shaped.origin is not None else forecast
    aids = tuple(Aid) if form.key == "step" and settings.aid is Aid.NONE else (settings.aid,)
    with private_folder(Path(os.path.realpath(folder))) as scratch:

        def attempt(aid: Aid) -> _Attempt:
            chosen_settings = replace(settings, aid=aid)
            return _Attempt(shaped, facts, known, kind, Path(out), store_folder, chosen_settings, scratch)

        best = attempt(aids[0])
        best.write(progress.part(0.15, 0.35))
        best.prove(progress.part(0.35, 0.9))
        if best.otherwise:
            best = _better(best, [attempt(aid) for aid in aids[1:]], progress.part(0.9, 1.0))
        proof = best.proof
        if shaped.origin is not None:
            proof = fold_proof(model, proof, shaped.origin, forecast)
        with _made_folders(folder, best.sizes):
            check_places([folder / name for name in best.sizes], force=settings.force)
            deliver({folder / name: best.folder / name for name in best.sizes})
    first, *others = ((str(folder / name), size) for name, size in best.sizes.items())
    return Sent(*first, kind, forecast, proof, best.returned, best.facts_back, tuple(others))


@contextmanager
def _made_folders(folder: Path, names: Iterable[str]) -> Iterator[None]:
    """The folders that files are to lie in, made; those that were not there go again on an error."""
    made: list[Path] = []
    try:
        for name in names:
            for above in reversed(Path(name).parents[:-1]):
                place = folder / above
                if not place.is_dir():
                    try:
                        place.mkdir()
                    except OSError as error:
                        raise WriteFailed(f"can't be made: {error.strerror}", file=str(place)) from error
                    made.append(place)
        yield
    except BaseException:
        for place in reversed(made):
            with suppress(OSError):
                place.rmdir()
        raise


def _refuse_open_meshes(model: Model, refused: Mapping[str, str], title: str) -> None:
    """Raise CannotExpress for the first mesh that no solid could be made of."""
    for body, why in refused.items():
        name = next(b.name or p.label for p, b in model.bodies() if b.id == body)
        raise CannotExpress(
            f"{name} can't be sent as {title}: {why}", hint="mend the mesh first, or send it as STL or OBJ"
        )


class _Attempt:
    """Files written beside their places, and their proof.

    Its `otherwise` says how many areas and volumes another reader has otherwise.
    """

    def __init__(
        self,
        shaped: _Shaped,
        facts: Mapping[str, BodyFacts],
        forecast: Forecast | None,
        kind: str,
        out: Path,
        store_folder: str,
        settings: SendSettings,
        scratch: Path,
    ) -> None:
        self.shaped, self.facts, self.forecast = shaped, facts, forecast
        self.kind, self.out, self.store_folder, self.settings = kind, out, store_folder, settings
        self.folder = scratch / settings.aid.name
        self.sizes: dict[str, int] = {}
        self.otherwise = 0

    @property
    def paths(self) -> list[str]:
        """The files that are read back: each alone, or the one that leads to the others."""
        names = list(self.sizes) if self.settings.files == "each" else list(self.sizes)[:1]
        return [str(self.folder / name) for name in names]

    def write(self, progress: Progress) -> None:
        """Write the files beside their places. Raises as send does."""
        form, chosen = target(self.kind)
        files = written_files(
            self.shaped.written, form, chosen, self.settings, BlobStore(Path(self.store_folder)),
            self.facts, name=self.out.name, progress=progress,
        )  # fmt: skip
        try:
            for name, data in files.items():
                place = self.folder / name
                place.parent.mkdir(parents=True, exist_ok=True)
                place.write_bytes(data)
                self.sizes[name] = len(data)
        except OSError as error:
            raise WriteFailed(f"can't be written: {error.strerror}", file=str(self.out)) from error

    def prove(self, progress: Progress) -> None:
        """Read the files back and prove them as one. Raises as send does."""
        progress.at(0.0, "Reading the file back")
        self.returned, self.proof, self.facts_back = prove_against(
            self.shaped.going, self.facts, self.paths, self.store_folder, self.forecast,
            progress, other_reader=self.settings.other_reader,
        )  # fmt: skip
        self.otherwise = _otherwise(self.proof.other)

    def see(self, first: _Attempt, progress: Progress) -> None:
        """Have the file read by the other reader alone, against our reading of the first attempt."""
        other = OtherReader(self.paths)
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
