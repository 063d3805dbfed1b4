"""Send as triangles: tessellate, write, read back, prove, then put in place."""

from __future__ import annotations

import json
import math
import os
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from gondrel.core.carriage.forecast import Forecast
from gondrel.core.carriage.meshes import Meshed, MeshFigures, MeshTarget, foresee_meshes, prove_meshes
from gondrel.core.errors import CannotExpress, WriteFailed
from gondrel.core.formats.base import Format, Target
from gondrel.core.formats.meshes import Piece
from gondrel.core.formats.settings import ReceiveSettings, SendSettings
from gondrel.core.kernel.mesh.meshing import mesh_body
from gondrel.core.model.body import Body, BodyFacts, BodyKind, Rgba
from gondrel.core.model.facets import Facets
from gondrel.core.model.limits import unlike
from gondrel.core.model.product import IDENTITY, Product
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.service.messages import Sent
from gondrel.core.service.receive import measure_all, receive
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import check_places, deliver, private_folder

__all__ = ["forecast_meshes", "send_meshes"]

_SINGLE = 1e-6
"""What single precision may change in an area or an extent, relative."""


@dataclass(frozen=True, slots=True)
class _Placed:
    """A body as a piece to write: its id and the piece, and how far its facets lie off, mm."""

    body: str
    piece: Piece
    deviation: float | None


def _mesh_target(form: Format, target: Target, settings: SendSettings) -> MeshTarget:
    return MeshTarget(
        title=target.title,
        things=target.carries.things,
        merges=not target.carries.things & {"names", "colours"},
        each=settings.files == "each",
        remarks=(*target.carries.remarks, _asked(settings)),
        unit=target.unit or settings.unit.key,
        says_unit="units" in target.carries.things,
    )


def _asked(settings: SendSettings) -> str:
    chord = f"{settings.chord:g} mm" if settings.chord else "1/2000 of each body's size"
    return f"Triangles within {chord} of the surfaces, turning by {settings.angle:g} degrees at most."


def forecast_meshes(
    model: Model,
    form: Format,
    target: Target,
    settings: SendSettings,
    store: BlobStore,
    progress: Progress = SILENT,
) -> Forecast:
    """What becomes of every item; the bodies are tessellated for it.

    Raises:
        KernelRefused: when a body can't be tessellated.
    """
    deviations = {}
    for _, body in progress.each(list(model.bodies()), "Tessellating"):
        if body.kind not in (BodyKind.WIRE, BodyKind.POINT):
            _, deviations[body.id] = _meshed(store, body, settings)
    return foresee_meshes(model, _mesh_target(form, target, settings), deviations)


def _meshed(store: BlobStore, body: Body, settings: SendSettings) -> tuple[Facets, float]:
    """A body's triangles in its own frame and their deviation, made once for these settings."""
    key = f"facets-{settings.chord:g}-{settings.angle:g}"
    if not store.has(body.blob, key):
        facets, off = mesh_body(store, body.blob, chord=settings.chord, angle=math.radians(settings.angle))
        head = json.dumps({"deviation": off}).encode() + b"\n"
        store.put_as(body.blob, key, head + facets.to_bytes())
    head, _, blob = store.get_as(body.blob, key).partition(b"\n")
    return Facets.from_bytes(blob), float(json.loads(head)["deviation"])


def _pieces(model: Model, store: BlobStore, settings: SendSettings) -> Iterator[_Placed]:
    """Every body in its place, with the colour of the component it belongs to where that has one."""
    colours: dict[tuple[str, ...], Rgba | None] = {(): None}
    own = {o.id: o for _, o in model.occurrences()}
    for place in model.walk():
        if place.path:
            colours[place.path] = own[place.path[-1]].colour or colours[place.path[:-1]]
        product = model.by_id.get(place.product)
        for body in product.bodies if product is not None else ():
            if body.kind in (BodyKind.WIRE, BodyKind.POINT) or product is None:
                continue
            facets, off = _meshed(store, body, settings)
            if place.placement is not IDENTITY:
                facets = facets.moved(place.placement)
            measured = None if body.kind is BodyKind.MESH else off
            yield _Placed(body.id, _piece(product, body, facets, colours[place.path]), measured)


def _piece(product: Product, body: Body, facets: Facets, over: Rgba | None) -> Piece:
    name = body.name or product.label
    if over is not None:
        return Piece(name, facets, over, (), body.layers)
    return Piece(name, facets, body.colour, body.face_colours, body.layers)


def send_meshes(
    model: Model,
    out: str,
    kind: str,
    form: Format,
    target: Target,
    settings: SendSettings,
    store_folder: str,
    progress: Progress = SILENT,
) -> Sent:
    """Write a model as triangles, read the files back and prove them, then put them in place.

    Raises:
        CannotExpress: when there is nothing with a surface. OutputError: when it can't be written.
    """
    store = BlobStore(Path(store_folder))
    exact = measure_all(model.blobs(), store_folder, progress=progress.part(0.0, 0.1))
    forecast = forecast_meshes(model, form, target, settings, store, progress.part(0.1, 0.4))
    mesh_target = _mesh_target(form, target, settings)
    models = dict(_files(model, Path(out))) if mesh_target.each else {Path(out).name: model}
    folder = Path(out).parent
    check_places([folder / name for name in models], force=settings.force)
    with private_folder(Path(os.path.realpath(folder))) as scratch:
        meshed: list[Meshed] = []
        figures: list[MeshFigures] = []
        first: Model | None = None
        sizes: dict[str, int] = {}
        written = 0
        for name, part in models.items():
            pieces = list(_pieces(part, store, settings))
            if not pieces:
                raise CannotExpress(f"{name}: there is no surface in it to make triangles of")
            written += sum(len(p.piece.facets.triangles) for p in pieces)
            files = form.writes_mesh([p.piece for p in pieces], settings, name)
            for file, data in files.items():
                try:
                    (scratch / file).write_bytes(data)
                except OSError as error:
                    raise WriteFailed(f"can't be written: {error.strerror}", file=out) from error
                sizes[file] = len(data)
            progress.at(0.6, f"Reading {name} back")
            unit = "" if mesh_target.says_unit else settings.unit.key
            returned = receive(str(scratch / name), store_folder, ReceiveSettings(unit=unit))
            meshed += _found(pieces, returned, store, merges=mesh_target.merges)
            figures.append(_measured(part, exact, pieces, returned, store))
            first = first or returned
        assert first is not None
        said = first.units.key if mesh_target.says_unit else ""
        proof = prove_meshes(model, forecast, meshed, mesh_target, _worst(figures), said)
        summary = f"facets: {written:,} written, all bodies looked for in what was read back"
        proof = replace(proof, witness=(summary,))
        check_places([folder / file for file in sizes], force=settings.force)
        deliver({folder / file: scratch / file for file in sizes})
    facts = measure_all(first.blobs(), store_folder, progress=progress.part(0.9, 1.0))
    names = list(sizes)
    main = Path(out).name if Path(out).name in sizes else names[0]
    companions = tuple((str(Path(out).parent / n), sizes[n]) for n in names if n != main)
    return Sent(str(Path(out).parent / main), sizes[main], kind, forecast, proof, first, facts, companions)


def _files(model: Model, out: Path) -> Iterator[tuple[str, Model]]:
    """A model of each product with bodies, by the name of its file."""
    taken: set[str] = set()
    for product in model.products:
        if not any(b.kind not in (BodyKind.WIRE, BodyKind.POINT) for b in product.bodies):
            continue
        plain = "".join(c if c.isalnum() or c in "-_ ." else "-" for c in product.label).strip() or "part"
        name, count = f"{out.stem}-{plain}{out.suffix}", 1
        while name in taken:
            count += 1
            name = f"{out.stem}-{plain}-{count}{out.suffix}"
        taken.add(name)
        alone = replace(product, occurrences=())
        yield name, replace(model, products=(alone,), roots=(alone.id,))


def _found(pieces: list[_Placed], returned: Model, store: BlobStore, *, merges: bool) -> list[Meshed]:
    """What came back of each piece: by its order where pieces stay apart, else all together."""
    bodies = [body if body.name else replace(body, name=p.label) for p, body in returned.bodies()]
    back = [Facets.from_bytes(store.get(body.blob)) for body in bodies]
    if merges or len(bodies) != len(pieces):
        whole = _is_same(Facets.joined([p.piece.facets for p in pieces]), Facets.joined(back))
        return [Meshed(p.body, p.deviation, is_back=whole and merges) for p in pieces]
    return [
        Meshed(
            p.body, p.deviation, p.piece.name, p.piece.colour, _is_same(p.piece.facets, facets),
            body.name, _labels(body), body.layers,
        )
        for p, body, facets in zip(pieces, bodies, back, strict=True)
    ]  # fmt: skip


def _measured(
    model: Model, exact: Mapping[str, BodyFacts], pieces: list[_Placed], returned: Model, store: BlobStore
) -> MeshFigures:
    """Volume and place of what was read back: piece by piece where pieces stay apart, else of the whole."""
    back = [Facets.from_bytes(store.get(body.blob)) for _, body in returned.bodies()]
    groups = [[p] for p in pieces]
    if len(back) != len(pieces):
        groups, back = [pieces], [Facets.joined(back)]
    bodies = {body.id: body for _, body in model.bodies()}
    errors, shifts = [], []
    for group, facets in zip(groups, back, strict=True):
        held = [bodies[p.body] for p in group]
        if all(body.kind is BodyKind.SOLID and body.blob in exact for body in held):
            volume = sum(exact[body.blob].volume for body in held)
            errors.append(unlike(volume, facets.enclosed))
        written = Facets.joined([p.piece.facets for p in group])
        if len(facets.triangles) and len(written.triangles):
            shifts.append(float(np.linalg.norm(facets.middle - written.middle)))
    return MeshFigures(max(errors, default=None), max(shifts, default=None))


def _worst(figures: list[MeshFigures]) -> MeshFigures:
    errors = [f.volume_error for f in figures if f.volume_error is not None]
    shifts = [f.shift for f in figures if f.shift is not None]
    return MeshFigures(max(errors, default=None), max(shifts, default=None))


def _labels(body: Body) -> frozenset[str]:
    """Every colour a body shows."""
    colours = [colour for _, colour in body.face_colours]
    return frozenset(c.label for c in (*colours, body.colour) if c is not None)


def _is_same(one: Facets, other: Facets) -> bool:
    """Whether two meshes agree in area and extent to single precision."""
    if not len(one.points) or not len(other.points):
        return False
    reach = float(np.abs(one.points).max())
    boxes = [np.concatenate([m.points.min(axis=0), m.points.max(axis=0)]) for m in (one, other)]
    area, back = float(one.areas.sum()), float(other.areas.sum())
    return bool(np.abs(boxes[0] - boxes[1]).max() <= _SINGLE * reach and abs(area - back) <= 1e-5 * area)
