"""An IGES file as a model: structure and looks from the records, shapes from the kernel."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from gondrel.core.errors import KernelRefused, MalformedFile
from gondrel.core.formats.iges.card import card_of
from gondrel.core.formats.iges.census import census_of
from gondrel.core.formats.iges.cleansed import cleansed, senseless_properties, senseless_topology
from gondrel.core.formats.iges.doubts import doubts_of
from gondrel.core.formats.iges.entities import name_of
from gondrel.core.formats.iges.integrity import flaw_of
from gondrel.core.formats.iges.properties import (
    MODEL_MORE,
    MORE,
    layers_of,
    level_names,
    matrix_of,
    said_of,
)
from gondrel.core.formats.iges.records import IgesFile, open_iges
from gondrel.core.formats.iges.structure import (
    Counted,
    IgesPlan,
    PlannedBody,
    PlannedProduct,
    Planner,
    counted,
)
from gondrel.core.formats.iges.units import unit_of
from gondrel.core.formats.settings import AS_SENT, ReceiveSettings
from gondrel.core.kernel.base.shape import (
    Shape,
    edges_of,
    faces_of,
    moved_copy,
    shape_to_blob,
    split_bodies,
)
from gondrel.core.kernel.exchange.iges_in import IgesShapes, plane_patch
from gondrel.core.kernel.inspect.edges_astray import edges_astray, edges_without_pcurve, faces_inside_out
from gondrel.core.kernel.topology.sew import Joined, connect_edges, sew_faces
from gondrel.core.kernel.topology.tolerances import widen_tolerances
from gondrel.core.model.appearance import Appearance
from gondrel.core.model.body import Body, BodyKind, Rgba
from gondrel.core.model.extras import (
    face_extra_in,
    with_body_extra,
    with_model_extra,
    with_product_extra,
    with_use_extra,
)
from gondrel.core.model.metadata import Metadatum
from gondrel.core.model.origins import Origins, keep_origins
from gondrel.core.model.places import split_placement
from gondrel.core.model.product import Occurrence, Placement, Product
from gondrel.core.model.provenance import DEADLY, Note, Provenance
from gondrel.core.model.snapshot import Model
from gondrel.core.model.store import BlobStore
from gondrel.core.work import SILENT, Progress
from gondrel.core.work.files import private_folder

__all__ = ["read", "sew_best"]

_LADDER = (1e-3, 1e-2)
_LEAST = 1e-4
"""Distances tried one after the other when surfaces are joined, mm, from the file's own resolution up."""

_ASTRAY = 1.0
"""Distance, mm, from which an edge off its face is no matter of tolerance any more."""

_PLANE_SIZE = 100.0
_CONNECT = 1e-3
_UNMOVED = frozenset((186, 514))
"""Types the kernel leaves where they stand although their directory entry moves them."""

Made = tuple[BodyKind, Shape, tuple[tuple[int, Rgba], ...], tuple[int, ...]]
"""A body's kind and shape, the colours of single faces, and the entity of each face, 0 for none."""


def read(
    path: str, store: BlobStore, *, settings: ReceiveSettings = AS_SENT, progress: Progress = SILENT
) -> Model:
    """Read an IGES file as sent; its loose surfaces are joined, which is noted.

    Each body is put in the store and its hash handed out through the progress as soon as it is made.

    Raises:
        InputError: when it can't be opened. UnsupportedContent: when it is compressed or binary.
        MalformedFile: when it breaks the format's rules or nothing can be made of it.
    """
    progress.at(0.0, "Reading records")
    file = open_iges(path)
    try:
        plan = Planner(file).make()
        card = card_of(file, plan)
        progress.at(0.1, "Parsing")
        in_space = all(curve.pointer(3) for curve in file.of(142))
        shapes = _shapes(file, plan, path, in_space)
        reader = _Reader(file, plan, shapes, store, settings, progress.part(0.2, 1.0))
        model = reader.read()
    except MalformedFile as error:
        error.file = error.file or path
        raise
    if not any(True for _ in model.bodies()):
        if any(True for _ in plan.bodies()):
            raise MalformedFile(
                "no body of it could be made",
                file=path,
                where=reader.notes[0].where if reader.notes else "",
            )
        if not any(p.uses for p in plan.products.values()):
            raise MalformedFile(
                "there is no shape in it that could be made",
                file=path,
                where=f"{len(file.entities)} entities",
            )
    keep_origins(store, path, reader.origins())
    made = {number for numbers, bodies in reader.made.items() if bodies for number in numbers}
    provenance = Provenance(card, "", census=census_of(file, plan, made))
    return replace(
        model,
        units=unit_of(file),
        provenance=provenance,
        notes=(*card.notes, *doubts_of(file), *reader.notes),
    )


def _shapes(file: IgesFile, plan: IgesPlan, path: str, in_space: bool) -> IgesShapes:
    """The kernel's shapes of a file, without what it would die of."""
    senseless = senseless_topology(file, (n for body in plan.bodies() for n in body.entities))
    senseless |= {entity.number for entity in senseless_properties(file)}
    if not senseless:
        return IgesShapes(path, in_space=in_space)
    with private_folder() as folder:
        other = folder / Path(path).name
        other.write_bytes(cleansed(path, senseless))
        return IgesShapes(str(other), in_space=in_space)


@dataclass(slots=True)
class _Reader:
    file: IgesFile
    plan: IgesPlan
    shapes: IgesShapes
    store: BlobStore
    settings: ReceiveSettings
    progress: Progress
    notes: list[Note] = field(default_factory=list)
    products: dict[str, Product] = field(default_factory=dict)
    made: dict[tuple[int, ...], list[Made]] = field(default_factory=dict)
    levels: dict[int, str] = field(default_factory=dict)
    faces: dict[str, tuple[int, ...]] = field(default_factory=dict)
    done: int = 0

    def read(self) -> Model:
        self.levels = level_names(self.file)
        roots = [self._product(number) for number in self.plan.roots]
        model = Model(tuple(self.products.values()), tuple(roots))
        for number in self.plan.roots[:1]:
            model = with_model_extra(model, self.plan.products[number].said.own_text(MODEL_MORE))
        return model

    def origins(self) -> Origins:
        """Where the items of the model come from."""
        uses = {
            use.id: int(use.id[1:].partition("in")[0])
            for p in self.products.values()
            for use in p.occurrences
        }
        bodies = {key: int(key[1:].partition(".")[0]) for key in self.faces}
        products = {key: int(key[1:]) for key in self.products if int(key[1:]) > 0}
        return Origins(products, uses, bodies, self.faces)

    def _product(self, number: int) -> str:
        planned = self.plan.products[number]
        key = f"p{number}"
        if key in self.products:
            return key
        said = planned.said
        product = Product(
            key, said.number, planned.name, said.own_text("REVISION"), said.own_text("DESCRIPTION"),
            said.material, tuple(said.metadata), is_reference=number == -1,
        )  # fmt: skip
        product = with_product_extra(product, said.own_text(MORE))
        self.products[key] = product  # parents stand before their parts
        bodies = tuple(self._bodies(planned, key))
        uses = []
        for use in planned.uses:
            placement = _scaled(use.placement, use.scale)
            if split_placement(placement)[1]:
                text = "it is placed mirrored or scaled; it is read as it is"
                self.notes.append(Note("placed-scaled", text, f"D{use.number}"))
            occurrence = Occurrence(
                f"o{use.number}in{key}", self._product(use.product), use.said.name, placement,
                use.colour, use.is_hidden, tuple(use.said.metadata), layers=use.layers,
            )  # fmt: skip
            uses.append(with_use_extra(occurrence, use.said.own_text(MORE)))
        self.products[key] = replace(product, bodies=bodies, occurrences=tuple(uses))
        return key

    def _bodies(self, planned: PlannedProduct, key: str) -> Iterator[Body]:
        for body in planned.bodies:
            made = self._shapes_of(body)
            for place, (kind, shape, colours, origins) in enumerate(made, 1):
                blob = self.store.put(shape_to_blob(shape))
                self.progress.give(("body", blob))
                name = body.name if len(made) == 1 or not body.name else f"{body.name} {place}"
                number = body.entities[0]
                made_body = Body(
                    f"b{number}.{place}in{key}", kind, name, blob, body.colour, colours, body.layers,
                    hidden=body.is_hidden, metadata=body.metadata,
                )  # fmt: skip
                self.faces[made_body.id] = origins or body.entities[:1]
                yield self._with_faces(with_body_extra(made_body, body.more), origins, body)

    def _with_faces(self, made_body: Body, origins: tuple[int, ...], body: PlannedBody) -> Body:
        """The body with what is said of single faces; origins are the entities of its faces."""
        names: list[tuple[int, str]] = []
        layers: list[tuple[int, str]] = []
        metadata: list[tuple[int, Metadatum]] = []
        looks: list[tuple[int, Appearance]] = []
        for place, number in enumerate(origins):
            entity = self.file.at(number)
            if entity is None or (number,) == body.entities:  # what it says is said of the body
                continue
            said = said_of(self.file, entity)
            names += [(place, name) for name in (said.name,) if name and name != body.name]
            own, own_looks = face_extra_in(said.own_text(MORE))
            metadata += [(place, datum) for datum in (*own, *said.metadata)]
            looks += [(place, look) for look in own_looks]
            on = layers_of(self.file, entity, self.levels)
            layers += [(place, layer) for layer in on if layer not in body.layers]
        return replace(
            made_body,
            face_names=tuple(names),
            face_layers=tuple(layers),
            face_metadata=tuple(metadata),
            face_appearance=tuple(looks),
        )

    def _shapes_of(self, body: PlannedBody) -> list[Made]:
        if body.entities not in self.made:
            total = max(sum(1 for _ in self.plan.bodies()), 1)
            step = f"Making D{body.entities[0]}, body {self.done + 1} of {total}"
            self.progress.at(min(self.done / total, 0.99), step)
            self.done += 1
            if self.progress.is_deadly(step):
                self.notes.append(Note("body-not-made", DEADLY, f"D{body.entities[0]}"))
                self.made[body.entities] = []
                return []
            make = {
                "faces": self._joined, "curves": self._curves, "plane": self._plane,
            }.get(body.what, self._whole)  # fmt: skip
            self.made[body.entities] = list(make(body))
        return self.made[body.entities]

    def _shape(self, number: int, *, is_solid: bool) -> Shape | None:
        """The shape of an entity; a note where none is made."""
        entity = self.file.entities[number]
        reason = flaw_of(self.file, number, self.shapes.refused)
        shape = None
        if not reason:
            try:
                shape = self.shapes.shape(number, is_solid=is_solid)
                reason = "no shape could be made of it"
            except KernelRefused as error:
                reason = error.message
        if shape is None:
            text = f"a {name_of(entity.kind)} (type {entity.kind}) could not be made: {reason}"
            self.notes.append(Note("body-not-made", text, f"D{number}"))
        return shape

    def _whole(self, body: PlannedBody) -> Iterator[Made]:
        """A solid, a shell or a point with the topology it has."""
        shape = self._shape(body.entities[0], is_solid=True)
        if shape is None:
            return
        numbers = self.shapes.face_numbers(shape)
        entity = self.file.entities[body.entities[0]]
        if entity.kind in _UNMOVED and entity.transform:
            matrix = matrix_of(self.file, entity.transform, unit_of(self.file).mm)
            shape = moved_copy(shape, tuple(float(v) for v in matrix.ravel()))
        origin = dict(zip(map(hash, faces_of(shape)), numbers, strict=True))
        colours = dict(body.face_colours)
        parts = split_bodies(shape)
        self._hold(body, shape, counted(self.file, body.entities[0]))
        if body.what == "solid" and not any(kind is BodyKind.SOLID for kind, _ in parts):
            text = "it is a solid in the file, no solid could be made of it"
            self.notes.append(Note("body-not-made", text, f"D{body.entities[0]}"))
        for kind, one in parts:
            widen_tolerances(one)
            faces = faces_of(one)
            looks = ((i, colours.get(origin.get(hash(face), 0))) for i, face in enumerate(faces))
            sources = tuple(origin.get(hash(face), 0) for face in faces)
            yield kind, one, tuple((i, c) for i, c in looks if c is not None), sources

    def _joined(self, body: PlannedBody) -> Iterator[Made]:
        faces: list[Shape] = []
        origins: list[int] = []
        for number in body.entities:
            shape = self._shape(number, is_solid=False)
            for face in faces_of(shape) if shape is not None else ():
                faces.append(face)
                origins.append(number)
        if not faces:
            return
        colours = dict(body.face_colours)
        if self.settings.join == 0.0:
            for face, number in zip(faces, origins, strict=True):
                own = colours.get(number)
                yield BodyKind.SHEET, face, ((0, own),) if own is not None else (), (number,)
            return
        joined = sew_best(faces, self.settings.join, self._resolution())
        self._tell_sewn(joined, len(faces), body)
        for each in joined.bodies:
            self._hold(body, each.shape, Counted())
        kept = sum(len(each.sources) for each in joined.bodies)
        if kept < len(body.entities):
            text = f"the file gives it {len(body.entities)} surfaces, {kept} faces are left of them"
            self.notes.append(Note("faces-differ", text, body.name or f"D{body.entities[0]}"))
        for made in joined.bodies:
            widen_tolerances(made.shape)
            looks = ((i, colours.get(origins[s]) if s >= 0 else None) for i, s in enumerate(made.sources))
            sources = tuple(origins[s] if s >= 0 else 0 for s in made.sources)
            yield made.kind, made.shape, tuple((i, c) for i, c in looks if c is not None), sources

    def _hold(self, body: PlannedBody, shape: Shape, expected: Counted) -> None:
        """Hold a body against what the file gives: its faces, and edges that lie on them."""
        where = body.name or f"D{body.entities[0]}"
        made = len(faces_of(shape))
        if 0 < expected.faces != made:
            text = f"the file gives it {expected.faces} faces, {made} were made"
            self.notes.append(Note("faces-differ", text, where))
        if (edges := len(edges_of(shape))) < expected.edges:
            text = f"the file gives it {expected.edges} edges, {edges} were made"
            self.notes.append(Note("edges-differ", text, where))
        if turned := faces_inside_out(shape):
            text = f"{turned} faces have their loops the wrong way round for their normals"
            self.notes.append(Note("faces-elsewhere", text, where))
        if bare := edges_without_pcurve(shape):
            text = f"{bare} edges could not be laid on the curved faces that they bound"
            self.notes.append(Note("edges-elsewhere", text, where))
        for _, gap in edges_astray(shape, _ASTRAY)[:1]:
            text = f"an edge lies {gap:.3g} mm off a face that it bounds; one of them is wrong in the file"
            self.notes.append(Note("edges-elsewhere", text, where))

    def _tell_sewn(self, joined: Joined, faces: int, body: PlannedBody) -> None:
        solids = sum(b.kind is BodyKind.SOLID for b in joined.bodies)
        sheets = len(joined.bodies) - solids
        parts = [
            f"{n} {word}{'s' if n != 1 else ''}" for n, word in ((solids, "solid"), (sheets, "sheet")) if n
        ]
        text = f"{faces} surfaces were joined within {joined.tolerance:g} mm to {' and '.join(parts)}"
        if joined.open_edges:
            text += f"; {joined.open_edges} edges stay open"
        where = body.name or f"D{body.entities[0]}"
        self.notes.append(Note("surfaces-joined", text, where))

    def _resolution(self) -> float:
        return max(self.file.number(19, 0.0) * unit_of(self.file).mm, 0.0)

    def _curves(self, body: PlannedBody) -> Iterator[Made]:
        shapes = (self._shape(number, is_solid=True) for number in body.entities)
        for wire in connect_edges([s for s in shapes if s is not None], _CONNECT):
            yield BodyKind.WIRE, wire, (), ()

    def _plane(self, body: PlannedBody) -> Iterator[Made]:
        entity = self.file.entities[body.entities[0]]
        mm = unit_of(self.file).mm
        a, b, c, d = (entity.real(i) for i in range(4))
        size = max(entity.real(8) * mm, _PLANE_SIZE)
        yield BodyKind.SHEET, plane_patch((a, b, c, d * mm), size), (), ()


def sew_best(faces: Iterable[Shape], wanted: float | None, resolution: float) -> Joined:
    """Join faces within a given distance, or within the least one that leaves the fewest edges open.

    Args:
        wanted: mm, None to find one; resolution: the smallest distance the sender tells apart, mm.

    Raises:
        KernelRefused: when the kernel fails over them.
    """
    listed = list(faces)
    if wanted is not None:
        return sew_faces(listed, wanted)
    least = max(min(resolution, _LADDER[-1]), _LEAST)
    best: Joined | None = None
    for tolerance in (least, *(t for t in _LADDER if t > least)):
        joined = sew_faces(listed, tolerance)
        if best is None or joined.open_edges < best.open_edges:
            best = joined
        if not joined.open_edges:
            break
    assert best is not None
    return best


def _scaled(placement: Placement, scale: float) -> Placement:
    """A placement of a part that is scaled before."""
    if scale == 1.0:
        return placement
    matrix = np.asarray(placement, float).reshape(4, 4).copy()
    matrix[:3, :3] *= scale
    return tuple(matrix.ravel().tolist())
